/** A file that cannot be read as a table, and where it stops. */
export class FileProblem extends Error {
  constructor(
    message: string,
    /** Line of the file, from 1; undefined if it is the file as a whole. */
    readonly line?: number,
  ) {
    super(message);
  }
}

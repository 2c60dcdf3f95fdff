/** What is told to whoever asked for what cannot be, as a problem document (RFC 9457). */
export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail?: string,
    readonly headers: Readonly<Record<string, string>> = {},
    /** What the problem document says besides. */
    readonly more: Readonly<Record<string, unknown>> = {},
  ) {
    super(detail ?? title);
  }
}

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

/** There is no such table, or box; while the server starts it may only not be there yet. */
export class NotThere extends HttpProblem {
  constructor(what: string, detail?: string) {
    super(404, `There is no such ${what}`, detail);
  }
}

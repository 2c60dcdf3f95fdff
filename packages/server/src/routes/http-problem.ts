/** An error that becomes a problem document (RFC 9457), told to whoever asked for what cannot be. */
export class HttpProblem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail?: string,
    readonly headers: Readonly<Record<string, string>> = {},
    /** Further members of the problem document. */
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

const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });

/**
 * Gives what happened, in words for a reader: what, what was kept, and what to do.
 * @param fetched when the rows on show were fetched, if that is known
 */
export function errorWords(error: unknown, fetched?: Date): string {
  const { status = 0, error: body } = error as { status?: number; error?: { title?: string; detail?: string } | null };
  const rows = fetched ? `these are the rows of ${TIME.format(fetched)}` : 'the rows are from before';
  if (status === 0) return `The server does not answer. What you typed is kept; ${rows}.`;
  if (status === 404) return body?.detail ?? 'This table is no longer there.';
  return [body?.title, body?.detail].filter(Boolean).join('. ') || 'Something went wrong on the server.';
}

/** Status of a failed request; 0 if there was no answer. */
export function statusOf(error: unknown): number {
  return (error as { status?: number }).status ?? 0;
}

/** Tells whether time may mend what failed: no connection, or a server in trouble or still starting; never what was asked wrongly. */
export function mayPass(error: unknown): boolean {
  const status = statusOf(error);
  return status === 0 || status >= 500;
}

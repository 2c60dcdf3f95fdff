/**
 * Rows on their way between file, database and search thread: the JSON of each, parted by the sign that is made for it and
 * that no JSON holds. One text is copied, sent and read sooner than thousands.
 *
 * Source: RFC 7464 (JSON text sequences), from which the sign is taken.
 */
export const PARTED = '\x1e';

export function recordsText(rows: readonly (readonly string[])[]): string {
  return rows.map((cells) => JSON.stringify(cells)).join(PARTED);
}

export function joinedRecords(texts: readonly string[]): string {
  return texts.join(PARTED);
}

/** Writes rows as the database gives them to whoever searches them: of each its number, a space, and its cells. */
export function identified(rows: readonly { readonly id: number; readonly cells: readonly string[] }[]): string {
  return rows.map(({ id, cells }) => `${id} ${JSON.stringify(cells)}`).join(PARTED);
}

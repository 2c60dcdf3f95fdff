/** The state of a search as the query of an address, so that it can be kept, sent and reloaded. */
export interface AddressState {
  readonly text?: string;
  /** Threaded columns, if not the box's own. */
  readonly threaded?: readonly string[];
}

/** @param path path and query, as in `/box/1?q=wood&in=Marks` */
export function readAddress(path: string): AddressState {
  const query = new URLSearchParams(path.split('?')[1] ?? '');
  const text = query.get('q') ?? undefined;
  const threaded = query.has('in') ? query.getAll('in').filter((name) => name !== '') : undefined;
  return { text, threaded };
}

/** The query that `readAddress` reads back; empty for a search that asks nothing. */
export function writeAddress({ text, threaded }: AddressState): string {
  const query = new URLSearchParams();
  if (text) query.set('q', text);
  if (threaded) {
    if (threaded.length === 0) query.append('in', '');
    for (const name of threaded) query.append('in', name);
  }
  return query.toString();
}

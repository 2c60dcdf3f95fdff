import type { Box, Borrows } from '@usual-needle/contract';

/** The address of the rows that lend to a key, on the sheet of their own table. */
export function lentAt({ table, matches }: Borrows, key: string): string {
  const as: Partial<Box> = { threaded: [matches], reading: 'plain text', where: 'whole cell' };
  const query = new URLSearchParams({ q: key.trim(), as: JSON.stringify(as) });
  return `/table/${table}?${query.toString()}`;
}

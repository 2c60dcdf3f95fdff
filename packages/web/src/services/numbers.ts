const format = new Intl.NumberFormat();

/** A count in the reader's locale. One formatter for all: making one takes longer than a keystroke may. */
export function counted(count: number): string {
  return format.format(count);
}

/** `1 cell`, `12 cells`. */
export function plural(count: number, one: string, many = `${one}s`): string {
  return `${counted(count)} ${count === 1 ? one : many}`;
}

/** `1 row`, `12 rows`. */
export function rowsCounted(count: number): string {
  return plural(count, 'row');
}

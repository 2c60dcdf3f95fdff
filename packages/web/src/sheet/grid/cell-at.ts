/** The cell under a pointer, by its places in the list and among the columns on show; undefined beside the rows. */
export function cellAt(
  target: EventTarget | null,
  active: number,
): { readonly row: number; readonly column: number } | undefined {
  const element = target as HTMLElement;
  const row = element.closest('.row');
  const cell = element.closest('.cell');
  if (!row) return undefined;
  // Beside the cells of a row it is the column gone to.
  const column = cell ? Number(cell.getAttribute('aria-colindex')) - 2 : Math.max(0, active);
  return { row: Number(row.getAttribute('aria-rowindex')) - 2, column };
}

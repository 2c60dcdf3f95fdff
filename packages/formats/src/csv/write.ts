/** CSV by RFC 4180. */

/** A cell as it is written: in quotes where it has to be. */
export function csvCell(text: string): string {
  return /[",\r\n]/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A line with its end. A line of one blank cell is written in quotes, since a line of nothing is no row. */
export function csvLine(cells: readonly string[]): string {
  return cells.length === 1 && cells[0] === '' ? '""\r\n' : `${cells.map(csvCell).join(',')}\r\n`;
}

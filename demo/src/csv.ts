/** CSV by RFC 4180: CRLF line ends, quotes where a cell has a comma, a quote or a line break. */
function cell(text: string): string {
  return /[",\r\n]|^\s|\s$/.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

export function* csvLines(columns: readonly string[], rows: Iterable<readonly string[]>): Generator<string> {
  yield `${columns.map(cell).join(',')}\r\n`;
  for (const row of rows) yield `${row.map(cell).join(',')}\r\n`;
}

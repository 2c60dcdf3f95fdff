/** CSV by RFC 4180, and with another sign between fields where a program wants that. */

/** A sign that can part fields. */
type FieldSign = ',' | ';' | '\t';

const QUOTED: Readonly<Record<FieldSign, RegExp>> = { ',': /[",\r\n]/, ';': /[";\r\n]/, '\t': /["\t\r\n]/ };

/** A cell as it is written: in quotes where it has to be. */
export function csvCell(text: string, sign: FieldSign = ','): string {
  return QUOTED[sign].test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/** A line with its end. A line of one blank cell is written in quotes, since a line of nothing is no row. */
export function csvLine(cells: readonly string[], sign: FieldSign = ','): string {
  if (cells.length === 1 && cells[0] === '') return '""\r\n';
  return `${cells.map((cell) => csvCell(cell, sign)).join(sign)}\r\n`;
}

/**
 * Cells as the text that spreadsheet programs copy and paste: tabs between cells, line breaks between rows, and a cell that holds either,
 * or begins with a quote, in quotes that are doubled within.
 */

export function textOfCells(rows: readonly (readonly string[])[]): string {
  const quoted = (cell: string): string => (/[\t\r\n]|^"/.test(cell) ? `"${cell.replaceAll('"', '""')}"` : cell);
  return rows.map((cells) => cells.map(quoted).join('\t')).join('\n');
}

/** Reads cells from text. A line break at the end ends the last row, and begins no further one; a quote that is never closed is a letter. */
export function cellsOfText(text: string): string[][] {
  const rows: string[][] = [[]];
  let at = 0;
  for (;;) {
    const cell = quotedAt(text, at) ?? plainAt(text, at);
    rows[rows.length - 1].push(cell.text);
    at = cell.end;
    if (at >= text.length) return rows;
    if (text[at] === '\t') at++;
    else {
      at += text.startsWith('\r\n', at) ? 2 : 1;
      if (at >= text.length) return rows;
      rows.push([]);
    }
  }
}

interface CellAt {
  readonly text: string;
  /** Where the sign after it is. */
  readonly end: number;
}

function plainAt(text: string, start: number): CellAt {
  let end = start;
  while (end < text.length && !'\t\r\n'.includes(text[end])) end++;
  return { text: text.slice(start, end), end };
}

function quotedAt(text: string, start: number): CellAt | undefined {
  if (text[start] !== '"') return undefined;
  let cell = '';
  for (let at = start + 1; at < text.length; at++) {
    if (text[at] !== '"') cell += text[at];
    else if (text[at + 1] === '"') {
      cell += '"';
      at++;
    } else {
      const ends = at + 1 >= text.length || '\t\r\n'.includes(text[at + 1]);
      return ends ? { text: cell, end: at + 1 } : undefined;
    }
  }
  return undefined;
}

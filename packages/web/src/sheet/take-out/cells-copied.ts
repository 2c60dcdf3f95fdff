/**
 * Rows as they go to the clipboard: as text with tabs, for sheets, and as a table with the marks drawn, for documents. Whatever a cell
 * holds is text there.
 */
import { shownText } from '@usual-needle/engine';
import type { Column, MarkTuple } from '@usual-needle/contract';
import { markedPieces } from '@usual-needle/formats/light';
import { textOfCells } from '../keep/cells-text';

/** A row as it was taken out: stored cells, and the marks in what is shown. */
export interface CopiedRow {
  readonly cells: readonly string[];
  readonly marks: readonly MarkTuple[];
}

const SIGNS: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const inHtml = (text: string): string => text.replace(/[&<>"]/g, (sign) => SIGNS[sign]).replace(/\r\n?|\n/g, '<br>');

function markedCell(text: string, marks: readonly MarkTuple[]): string {
  const html = markedPieces(text, marks).map((piece) => {
    const inner = inHtml(piece.text);
    return piece.keyword === undefined ? inner : `<b><u>${inner}</u></b>`;
  });
  return html.join('');
}

export function copiedCells(
  columns: readonly Column[],
  rows: readonly CopiedRow[],
  header: boolean,
): { readonly text: string; readonly html: string } {
  const names = columns.map(({ name }) => name);
  const text = textOfCells([...(header ? [names] : []), ...rows.map(({ cells }) => cells)]);
  const line = (tag: 'th' | 'td', cells: readonly string[]): string =>
    `<tr>${cells.map((cell) => `<${tag}>${cell}</${tag}>`).join('')}</tr>`;
  const body = rows.map(({ cells, marks }) =>
    line(
      'td',
      cells.map((cell, i) =>
        markedCell(
          shownText(cell, columns[i]),
          marks.filter(([column]) => column === i),
        ),
      ),
    ),
  );
  const head = header ? `<thead>${line('th', names.map(inHtml))}</thead>` : '';
  return { text, html: `<table>${head}<tbody>${body.join('')}</tbody></table>` };
}

/**
 * A page to print (HTML Living Standard; CSS Paged Media): what was asked, and the rows with their marks. The names of the columns
 * stand on each sheet of paper, and its number at its foot. Nothing in it is run, whatever cells hold.
 */
import { shownText } from '@usual-needle/engine';
import type { MarkTuple } from '@usual-needle/contract';
import { markedPieces } from '../marked-pieces.js';
import type { Writer } from '../taken.js';

/** Rows that a page may have: browsers lay all of them out before they print. */
export const PAGE_ROWS = 20_000;
/** Letters of a cell that is not broken into lines: a number of an item, or a date. */
const SHORT = 14;
/** Keywords that are told apart, as on the sheet. */
const TELLABLE = 6;

const SIGNS: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;', "'": '&#39;' };

/** A text as HTML has it. */
function inHtml(text: string): string {
  return text.replace(/[&<>"']/g, (sign) => SIGNS[sign]);
}

/** A cell with its marks drawn. */
function markedHtml(text: string, marks: readonly MarkTuple[]): string {
  const html = markedPieces(text, marks).map((piece) => {
    const inner = inHtml(piece.text);
    if (piece.keyword === undefined) return inner;
    return `<mark class="k${((piece.keyword - 1) % TELLABLE) + 1}">${inner}</mark>`;
  });
  return html.join('');
}

const STYLE = `
@page { margin: 14mm 12mm 16mm; @bottom-right { content: counter(page) " / " counter(pages); font: 9pt sans-serif; } }
body { margin: 24px; color: #1d1c1a; background: #fff; font: 10pt/1.4 "Liberation Sans", Arial, sans-serif; }
h1 { margin: 0 0 4px; font-size: 14pt; }
p { margin: 0 0 4px; }
.typed { font-weight: 700; }
.facts { color: #5c5850; font-size: 9pt; margin-bottom: 12px; }
table { border-collapse: collapse; width: 100%; }
th, td { padding: 3px 8px 3px 0; border-bottom: 0.5pt solid #d9d2c4; text-align: left; vertical-align: top; overflow-wrap: anywhere; white-space: pre-wrap; }
th { border-bottom: 1pt solid #1d1c1a; }
.short { white-space: nowrap; }
.number { text-align: right; font-variant-numeric: tabular-nums; }
tr { break-inside: avoid; }
mark { color: inherit; background: none; font-weight: 700; text-decoration: underline; text-decoration-thickness: 1.2pt; text-underline-offset: 2pt; }
.k2 { text-decoration-style: dashed; }
.k3 { text-decoration-style: dotted; }
.k4 { text-decoration-style: double; }
.k5 { text-decoration-style: wavy; }
.k6 { text-decoration-line: underline overline; }
@media print { body { margin: 0; } }
`;

export const writePage: Writer = async function* (taken, rows, { header = true, marks = true } = {}) {
  const { columns, name = '', sentence = '', typed = '', who = '', at = '' } = taken;
  const told = (count = 0): string => `${count.toLocaleString('en')} ${count === 1 ? 'row' : 'rows'}`;
  const facts = [`${told(taken.rows)} of ${(taken.total ?? taken.rows ?? 0).toLocaleString('en')}`, at, who];
  const cell = (tag: 'th' | 'td', i: number, html: string, letters = Infinity): string => {
    const classes = [columns[i].kind === 'number' ? 'number' : '', letters <= SHORT ? 'short' : ''].filter(Boolean);
    return `<${tag}${classes.length > 0 ? ` class="${classes.join(' ')}"` : ''}>${html}</${tag}>`;
  };
  yield `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><title>${inHtml(name)}</title>
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'">
<style>${STYLE}</style></head><body>
<h1>${inHtml(name)}</h1>
${typed === '' ? '' : `<p class="typed">${inHtml(typed)}</p>\n`}${sentence === '' ? '' : `<p>${inHtml(sentence)}</p>\n`}<p class="facts">${facts
    .filter((fact) => fact !== '')
    .map(inHtml)
    .join(' · ')}</p>
<table>
`;
  if (header)
    yield `<thead><tr>${columns.map((column, i) => cell('th', i, inHtml(column.name))).join('')}</tr></thead>\n`;
  yield '<tbody>\n';
  for await (const some of rows)
    yield some
      .map((row) => {
        const cells = row.cells.map((text, i) => {
          const hits = marks ? (row.marks ?? []).filter(([column]) => column === i) : [];
          const shown = shownText(text, columns[i]);
          return cell('td', i, markedHtml(shown, hits), shown.length);
        });
        return `<tr>${cells.join('')}</tr>\n`;
      })
      .join('');
  yield '</tbody></table></body></html>\n';
};

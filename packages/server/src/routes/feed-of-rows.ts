/**
 * The rows that lately began to match, as a feed (RFC 4287): whoever follows it is told of new ones by what follows feeds.
 */
import type { Column } from '@usual-needle/contract';
import type { Beginning } from '../take-out/beginnings.js';
import { inXml } from './xml.js';

/** Letters of a row's first cell that it is called by. */
const TITLE = 120;

interface Feed {
  /** The address of the feed, of its page, and the rest of the page's address, if there is any. */
  readonly self: string;
  readonly page: string;
  readonly query: string;
  readonly title: string;
  /** When the table was changed last, as a date-time. */
  readonly changedAt: string;
  readonly columns: readonly Pick<Column, 'name'>[];
  readonly rows: readonly Beginning[];
}

export function feedOfRows({ self, page, query, title, changedAt, columns, rows }: Feed): string {
  const entry = ({ row, change, at, cells }: Beginning): string => {
    const called = cells.find((cell) => cell.trim() !== '')?.trim() ?? `Row ${row}`;
    const text = cells.flatMap((cell, i) => (cell === '' ? [] : [`${columns[i].name}: ${cell}`])).join('\n');
    const way = new URLSearchParams(query);
    way.set('row', String(row));
    return `  <entry>
    <id>${inXml(`${page}#row-${row}-change-${change}`)}</id>
    <title>${inXml(called.length > TITLE ? `${called.slice(0, TITLE)}…` : called)}</title>
    <updated>${at}</updated>
    <link rel="alternate" type="text/html" href="${inXml(`${page}?${way.toString()}`)}"/>
    <content type="text">${inXml(text)}</content>
  </entry>
`;
  };
  return `<?xml version="1.0" encoding="utf-8"?>
<feed xmlns="http://www.w3.org/2005/Atom">
  <id>${inXml(self)}</id>
  <title>${inXml(title)}</title>
  <updated>${rows.at(0)?.at ?? changedAt}</updated>
  <author><name>Usual Needle</name></author>
  <link rel="self" type="application/atom+xml" href="${inXml(self)}"/>
  <link rel="alternate" type="text/html" href="${inXml(query === '' ? page : `${page}?${query}`)}"/>
${rows.map(entry).join('')}</feed>
`;
}

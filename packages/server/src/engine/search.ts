/** From a search of the engine to the answer that goes over the wire. */
import type { AnswerKeyword, AnswerNotice, SearchAnswer, SearchRequest } from '@usual-needle/contract';
import { columnNumbers, traceOf, windowRows, type Search, type Table } from '@usual-needle/engine';

/** Parts of the table that the trace tells apart: about one a pixel on a common screen. */
const TRACE_BINS = 250;

export function shownColumns(table: Table, request: SearchRequest): number[] {
  return request.columns ? columnNumbers(table.columns, request.columns) : table.columns.map((_, i) => i);
}

function keywordsOf(search: Search): AnswerKeyword[] {
  let next = 0;
  return search.strands.flatMap(({ parsed, verb }, strand) =>
    parsed.keywords.map(({ number, text, start, end }) => {
      const drawn = number > 0 && verb !== 'minus';
      if (drawn) next++;
      return { number: drawn ? next : 0, strand, text, start, end, rows: drawn ? search.keywordTallies[next - 1] : 0 };
    }),
  );
}

export function answerOf(search: Search, request: SearchRequest, milliseconds: number): SearchAnswer {
  const columns = shownColumns(search.table, request);
  const numberOf = new Map(columns.map((column, i) => [column, i]));
  const offset = request.offset ?? 0;
  const asked = search.strands.some(({ plan }) => plan !== undefined);
  const notices: AnswerNotice[] = [];
  let problem: AnswerNotice | null = null;
  search.strands.forEach(({ parsed }, strand) => {
    for (const notice of parsed.notices) notices.push({ strand, ...notice });
    if (parsed.problem) problem ??= { strand, ...parsed.problem };
  });
  return {
    total: search.table.rowCount,
    matched: search.matched,
    shown: search.shown,
    searched: search.searched,
    asked,
    complete: search.complete,
    overtaken: false,
    columnTallies: columns.map((column) => search.columnTallies[column]),
    trace: asked ? traceOf(search, TRACE_BINS) : [],
    keywords: keywordsOf(search),
    notices,
    problem,
    offset,
    rows: windowRows(search, offset, request.limit ?? 100, columns).map((row) => ({
      ...row,
      marks: row.marks.flatMap(({ column, start, end, keyword }) => {
        const number = numberOf.get(column);
        return number === undefined ? [] : [[number, start, end, keyword] as const];
      }),
    })),
    milliseconds,
  };
}

/** From a search of the engine to the answer that goes over the wire. */
import type {
  AnswerKeyword,
  AnswerNotice,
  SearchAnswer,
  SearchRequest,
  WireChange,
  WireReason,
} from '@usual-needle/contract';
import {
  columnNumbers,
  traceOf,
  windowRows,
  type Change,
  type Reason,
  type Search,
  type Table,
} from '@usual-needle/engine';

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
      // Keywords are numbered across strands as the engine numbers the marks.
      if (drawn) next++;
      return { number: drawn ? next : 0, strand, text, start, end, rows: drawn ? search.keywordTallies[next - 1] : 0 };
    }),
  );
}

export function answerOf(search: Search, request: SearchRequest, milliseconds: number): SearchAnswer {
  const columns = shownColumns(search.table, request);
  const numberOf = new Map(columns.map((column, i) => [column, i]));
  const offset = request.offset ?? 0;
  const asked = search.asks;
  const notices: AnswerNotice[] = [];
  search.strands.forEach(({ parsed }, strand) => {
    for (const notice of parsed.notices) notices.push({ strand, ...notice });
  });
  const { problem } = search;
  return {
    total: search.table.rowCount,
    matched: search.matched,
    narrowed: search.narrowed,
    shown: search.shown,
    searched: search.searched,
    asked,
    complete: search.complete,
    overtaken: false,
    columnTallies: columns.map((column) => search.columnTallies[column]),
    trace: asked ? traceOf(search, TRACE_BINS) : [],
    strands: search.strandTallies.map(({ asked: did, added, removed, leaves }) => ({
      asked: did,
      added,
      removed,
      leaves,
    })),
    keywords: keywordsOf(search),
    notices,
    problem: problem ? { strand: problem.strand, ...problem.notice } : null,
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

function wireChange(change: Change, columns: readonly { readonly name: string }[]): WireChange {
  if (change.type === 'thread')
    return { type: 'thread', columns: change.columns.map((column) => columns[column].name) };
  if (change.type === 'several') return { type: 'several', of: change.of.map((one) => wireChange(one, columns)) };
  return change;
}

/** A reason with its columns named. */
export function wireReason(reason: Reason, { columns }: Table): WireReason {
  const named = reason.columns?.map(({ column, rows }) => ({ column: columns[column].name, rows }));
  return { ...reason, change: wireChange(reason.change, columns), columns: named };
}

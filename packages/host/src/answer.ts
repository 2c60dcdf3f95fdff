/** Makes a search of the engine the answer that goes over the wire. */
import type {
  AnswerKeyword,
  AnswerNotice,
  AnswerRow,
  SearchAnswer,
  SearchRequest,
  WireChange,
  WireReason,
} from '@usual-needle/contract';
import {
  Staying,
  traceOf,
  windowSteps,
  type RemedyChange,
  type Reason,
  type Search,
  type Table,
} from '@usual-needle/engine';

/** Parts of the table that the trace tells apart: about one a pixel on a common screen. */
const TRACE_BINS = 250;
/** Rows of a window, if the request does not say. */
const USUAL_LIMIT = 100;

export function keywordsOf(search: Search): AnswerKeyword[] {
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

interface AskedRows {
  readonly request: SearchRequest;
  /** Numbers of the columns to answer with. */
  readonly columns: readonly number[];
  /** Number of the table's last change. */
  readonly change: number;
  readonly milliseconds: number;
  /** How many rows there are for the asker, where that is not all: then nothing is told that would tell of others. */
  readonly within?: number;
}

/** Rests between the cells of the window, so that others can be answered where their marks take long. */
export function* answerSteps(search: Search, asked: AskedRows): Generator<void, SearchAnswer> {
  const { request, columns, change, milliseconds, within } = asked;
  const numberOf = new Map(columns.map((column, i) => [column, i]));
  const offset = request.offset ?? 0;
  const rows: AnswerRow[] = [];
  const { stays = [], fresh = [], places = [], brief = false } = request;
  const list = stays.length > 0 ? new Staying(search.view, stays) : undefined;
  for (const row of windowSteps(search, offset, request.limit ?? USUAL_LIMIT, columns, list)) {
    yield;
    if (!row) continue;
    const marks = row.marks.flatMap(({ column, start, end, keyword }) => {
      const number = numberOf.get(column);
      return number === undefined ? [] : [[number, start, end, keyword] as const];
    });
    const { raw, left, ...rest } = row;
    const also = row.marks.length > marks.length ? elsewhere(search, row.marks, numberOf) : [];
    rows.push({
      ...rest,
      ...(within !== undefined && { place: offset + rows.length + 1, position: offset + rows.length }),
      marks,
      ...(also.length > 0 && { also }),
      ...(request.raw && raw.length > 0 && { raw }),
      ...(left && { left }),
    });
  }
  const notices: AnswerNotice[] = [];
  search.strands.forEach(({ parsed }, strand) => {
    for (const notice of parsed.notices) notices.push({ strand, ...notice });
  });
  const { problem, asks } = search;
  const trace = asks && !brief && within === undefined ? traceOf(search, TRACE_BINS) : { hits: [], starts: [] };
  return {
    total: within ?? search.table.rowCount,
    matched: search.matched,
    narrowed: search.narrowed,
    shown: list?.shown ?? search.shown,
    searched: within === undefined ? search.searched : Math.min(search.searched, within),
    change,
    asked: asks,
    complete: search.complete,
    overtaken: false,
    columnTallies: brief ? [] : columns.map((column) => search.columnTallies[column]),
    trace: trace.hits,
    traceStarts: trace.starts,
    strands: search.strandTallies.map(({ asked: did, added, removed, leaves }) => ({
      asked: did,
      added,
      removed,
      leaves,
    })),
    keywords: brief ? [] : keywordsOf(search),
    notices,
    problem: problem ? { strand: problem.strand, ...problem.notice } : null,
    offset,
    rows,
    milliseconds,
    ...(list && { misplaced: list.misplaced }),
    ...(places.length > 0 && { places: placesOf(search, list, places) }),
    ...(fresh.length > 0 && { fresh: freshOf(search, fresh) }),
  };
}

/** Names of the columns of marks that are not among those asked for, as far as they may be seen. */
function elsewhere(
  { table, question }: Search,
  marks: readonly { readonly column: number }[],
  asked: ReadonlyMap<number, number>,
): string[] {
  const columns = new Set(marks.map(({ column }) => column).filter((column) => !asked.has(column)));
  const seen = [...columns].filter((column) => question.visible?.includes(column) ?? true);
  return seen.map((column) => table.columns[column].name);
}

function placesOf({ table, view }: Search, list: Staying | undefined, ids: readonly number[]): (number | null)[] {
  return ids.map((id) => {
    const slot = table.slotOf(id);
    return (list ? list.placeOf(id) : slot === undefined ? undefined : view.placeInList(slot)) ?? null;
  });
}

function freshOf({ table, view, asks, question }: Search, ids: readonly number[]): number[] {
  const anyway = !asks || question.effect !== 'mark in place';
  return ids.filter((id) => {
    const slot = table.slotOf(id);
    return slot !== undefined && view.placeInList(slot) !== undefined && (anyway || view.isMatch(slot));
  });
}

function wireChange(change: RemedyChange, columns: readonly { readonly name: string }[]): WireChange {
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

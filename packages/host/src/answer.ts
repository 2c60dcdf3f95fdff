/** Writes the answer that goes over the wire of a search of the engine. */
import type {
  AnswerKeyword,
  AnswerNotice,
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
  type ColumnSegment,
  type Search,
  type Segment,
  type Table,
} from '@usual-needle/engine';
import type { JsonWriter } from './json-writer.js';

/** Parts of the table that the trace tells apart: about one a pixel on a common screen. */
const TRACE_BINS = 250;
/** Rows that are written in one step. */
const ROWS_A_STEP = 16;
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

/** Parts of the answer that are there only if they were asked for, or there is something to tell. */
type Extras = Pick<SearchAnswer, 'misplaced' | 'places' | 'fresh'>;

/**
 * Writes the answer, a `SearchAnswer`; rests between the cells of the window, so that others can be answered where their marks
 * take long.
 * @returns true once all is written
 */
export function* answerSteps(search: Search, asked: AskedRows, to: JsonWriter): Generator<void, true> {
  const { request, columns, change, milliseconds, within } = asked;
  const offset = request.offset ?? 0;
  const { stays = [], fresh = [], places = [], brief = false } = request;
  const list = stays.length > 0 ? new Staying(search.view, stays) : undefined;
  // Rows come first: what is counted is told once nothing is waited for any more.
  to.signs('{"rows":[');
  yield* rowSteps(search, asked, list, to);
  to.signs(']');
  const put = (name: keyof SearchAnswer, value: number | boolean): void => {
    to.signs(`,"${name}":`);
    if (typeof value === 'number') to.number(value);
    else to.signs(value ? 'true' : 'false');
  };
  put('total', within ?? search.table.rowCount);
  put('matched', search.matched);
  put('narrowed', search.narrowed);
  put('shown', list?.shown ?? search.shown);
  put('searched', within === undefined ? search.searched : Math.min(search.searched, within));
  put('change', change);
  const { problem, asks } = search;
  put('asked', asks);
  put('complete', search.complete);
  put('overtaken', false);
  put('offset', offset);
  put('milliseconds', milliseconds);
  to.signs(',"columnTallies":');
  to.numbers(brief ? [] : columns.map((column) => search.columnTallies[column]));
  const trace = asks && !brief && within === undefined ? traceOf(search, TRACE_BINS) : { hits: [], starts: [] };
  to.signs(',"trace":');
  to.numbers(trace.hits);
  to.signs(',"traceStarts":');
  to.numbers(trace.starts);
  const notices: AnswerNotice[] = search.strands.flatMap(({ parsed }, strand) =>
    parsed.notices.map((notice) => ({ strand, ...notice })),
  );
  const strands = search.strandTallies.map(({ asked: did, added, removed, leaves }) => ({
    asked: did,
    ...{ added, removed, leaves },
  }));
  const told: Pick<SearchAnswer, 'strands' | 'keywords' | 'notices' | 'problem'> & Extras = {
    strands,
    keywords: brief ? [] : keywordsOf(search),
    notices,
    problem: problem ? { strand: problem.strand, ...problem.notice } : null,
    ...(list && { misplaced: list.misplaced }),
    ...(places.length > 0 && { places: placesOf(search, list, places) }),
    ...(fresh.length > 0 && { fresh: freshOf(search, fresh) }),
  };
  to.rest(told);
  return true;
}

/** Writes the rows of the window, each an `AnswerRow`. */
function* rowSteps(
  search: Search,
  { request, columns, within }: AskedRows,
  list: Staying | undefined,
  to: JsonWriter,
): Generator<void, void> {
  /** The number of each of the table's columns among those asked for; -1 of others. */
  const numberOf = search.table.columns.map((_, column) => columns.lastIndexOf(column));
  const offset = request.offset ?? 0;
  let count = 0;
  for (const shown of windowSteps(search, offset, request.limit ?? USUAL_LIMIT, list)) {
    if (!shown || count % ROWS_A_STEP === 0) yield;
    if (!shown) continue;
    const { id, match, left, part, row, marks } = shown;
    const position = within === undefined ? shown.position : offset + count;
    to.signs(count++ > 0 ? ',{"id":' : '{"id":');
    to.number(id);
    to.signs(',"place":');
    to.number(within === undefined ? shown.place : position + 1);
    to.signs(',"position":');
    to.number(position);
    to.signs(match ? ',"match":true,"cells":[' : ',"match":false,"cells":[');
    for (let i = 0; i < columns.length; i++) {
      if (i > 0) to.signs(',');
      writeShown(part.columns[columns[i]], row, to);
    }
    to.signs('],"marks":[');
    let marked = 0;
    for (const { column, start, end, keyword } of marks) {
      const number = numberOf[column];
      if (number < 0) continue;
      to.signs(marked++ > 0 ? ',[' : '[');
      to.number(number);
      to.signs(',');
      to.number(start);
      to.signs(',');
      to.number(end);
      to.signs(',');
      to.number(keyword);
      to.signs(']');
    }
    to.signs(']');
    const also = marks.length > marked ? elsewhere(search, marks, numberOf) : [];
    if (also.length > 0) {
      to.signs(',"also":');
      to.value(also);
    }
    const raw = request.raw ? rawCells(part, row, columns) : [];
    if (raw.length > 0) {
      to.signs(',"raw":');
      to.value(raw);
    }
    to.signs(left ? ',"left":true}' : '}');
  }
}

/** Writes the text that a cell shows. */
function writeShown(column: ColumnSegment, row: number, to: JsonWriter): void {
  const { raw, codes } = column;
  if (column.isShownOtherwise || column.isStale(row)) to.string(column.shownText(row));
  else to.string(raw.joined, raw.starts[codes[row]], raw.end(codes[row]));
}

/** The stored texts of cells that show another one, each with the number of its column among those asked for. */
function rawCells(part: Segment, row: number, columns: readonly number[]): [number, string][] {
  return columns.flatMap((column, i) => {
    const cells = part.columns[column];
    const text = cells.rawText(row);
    return cells.isShownOtherwise && cells.shownText(row) !== text ? [[i, text] as [number, string]] : [];
  });
}

/** Names of the columns of marks that are not among those asked for, as far as they may be seen. */
function elsewhere(
  { table, question }: Search,
  marks: readonly { readonly column: number }[],
  asked: readonly number[],
): string[] {
  const names: string[] = [];
  let last = -1;
  // Marks come column by column.
  for (const { column } of marks) {
    if (column === last || asked[column] >= 0) continue;
    last = column;
    if (question.visible?.includes(column) ?? true) names.push(table.columns[column].name);
  }
  return names;
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

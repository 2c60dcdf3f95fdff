/**
 * A plan over one segment: sets of rows, from the leaves up. What a matcher answered for a column is remembered, and mended
 * where rows change, so that a keystroke only pays for the keyword it changed, and an edit for the row it changed.
 */
import {
  addBits,
  addRows,
  anyOf,
  asFew,
  clearBit,
  common,
  dropBits,
  emptyBits,
  isEmpty,
  isFew,
  Judging,
  keepBits,
  ownBits,
  setBit,
  type Bits,
  type Cell,
  type ColumnSegment,
  type RowSet,
  type Segment,
  type WholeBytes,
} from '../store/index.js';
import { spend } from '../automaton/index.js';
import type { Plan } from './compile.js';
import { judgeEach, type Matcher } from './matchers/matcher.js';

/** Answers remembered per column of a segment. */
const REMEMBERED = 24;

/** Rows that hit a matcher, as of a version of the segment. */
interface RememberedHits {
  readonly rows: RowSet | undefined;
  readonly version: number;
}

/** The answers that one column of a segment gave lately. The last one stands apart, since it is asked for again at once. */
interface Memory {
  key: string;
  last: RememberedHits;
  readonly answers: Map<string, RememberedHits>;
}

const memories = new WeakMap<Segment, Memory[]>();

function memoryOf(segment: Segment, column: number): Memory {
  let columns = memories.get(segment);
  if (!columns) memories.set(segment, (columns = []));
  return (columns[column] ??= { key: '', last: { rows: undefined, version: -1 }, answers: new Map() });
}

/** Tells whether a row's cell hits. */
type TestRow = (row: number, cell: Cell) => boolean;

/**
 * Rows whose cell hits, if that was asked lately, true of the rows that were changed since; undefined if it is to be asked anew.
 * @param test what a changed row is asked @throws what it throws
 */
export function rememberedHits(
  segment: Segment,
  column: number,
  matcher: Matcher,
  test: TestRow = (_, cell) => matcher.test(cell),
): RememberedHits | undefined {
  const memory = memoryOf(segment, column);
  const { key } = matcher;
  const answer = memory.key === key ? memory.last : memory.answers.get(key);
  if (!answer) return undefined;
  memory.key = key;
  memory.last = answer;
  if (answer.version === segment.changes.version) return answer;
  const now = mended(answer, segment, column, test);
  if (now) memory.answers.set(key, (memory.last = now));
  return now;
}

function mended(
  { rows, version }: RememberedHits,
  segment: Segment,
  column: number,
  test: TestRow,
): RememberedHits | undefined {
  const { changes } = segment;
  const changed = changes.since(version);
  if (!changed) return undefined;
  const now = ownBits(rows, segment.rowCount);
  for (const row of new Set(changed)) {
    if (test(row, segment.columns[column].cell(row))) setBit(now, row);
    else clearBit(now, row);
  }
  return { rows: asFew(now), version: changes.version };
}

function remember(segment: Segment, column: number, { key }: Matcher, rows: RowSet | undefined): void {
  const memory = memoryOf(segment, column);
  const { answers } = memory;
  answers.delete(key);
  if (answers.size >= REMEMBERED) answers.delete(answers.keys().next().value!);
  memory.key = key;
  answers.set(key, (memory.last = { rows, version: segment.changes.version }));
}

/**
 * Rows that may hit by what a beginning of the text was answered, the longest that was asked lately.
 * @returns undefined if there is none such
 */
function rowsOfBeginning(
  segment: Segment,
  column: number,
  { key, growth }: Matcher,
): { readonly rows: RowSet | undefined } | undefined {
  if (!growth) return undefined;
  let longest = growth.from - 1;
  let best: RememberedHits | undefined;
  for (const [earlier, answer] of memoryOf(segment, column).answers) {
    if (earlier.length <= longest || answer.version !== segment.changes.version || !key.startsWith(earlier)) continue;
    longest = earlier.length;
    best = answer;
  }
  if (!best) return undefined;
  const { rowsBeyondAscii } = segment.columns[column];
  if (growth.holds(longest) || isEmpty(rowsBeyondAscii)) return best;
  const rows = ownBits(best.rows, segment.rowCount);
  addBits(rows, rowsBeyondAscii);
  return { rows };
}

/** Rows with any piece of a group; not to be written to. */
function rowsOfAny({ vocabulary, rowCount }: ColumnSegment, group: readonly string[]): RowSet | undefined {
  if (group.length === 1) return vocabulary.rowsContaining(group[0]);
  const sets = group.map((piece) => vocabulary.rowsContaining(piece)).filter((rows) => rows !== undefined);
  return anyOf(sets, rowCount);
}

/** Rows whose cell hits or hit when the index was built. @param judging that was stopped, to go on with */
function indexedRows(segment: Segment, at: number, matcher: Matcher, judging: Judging): RowSet | undefined {
  const column = segment.columns[at];
  if (matcher.indexedRows) return matcher.indexedRows(column, judging);
  const { exact } = matcher.filter;
  const pieces = matcher.judgesAll?.(column) ? [] : matcher.filter.pieces;
  const judgesAll = column.hasFewValues;
  const beginning = exact || judgesAll ? undefined : rowsOfBeginning(segment, at, matcher);
  if (beginning && !beginning.rows) return undefined;
  let candidates = beginning?.rows;
  for (const group of pieces) {
    const rows = rowsOfAny(column, group);
    if (!rows) return undefined;
    if (exact) return rows;
    if (judgesAll) continue;
    candidates = candidates ? common(candidates, rows) : rows;
    if (!candidates) return undefined;
  }
  const judge = (values: WholeBytes): void => {
    if (matcher.judge) matcher.judge(column, values);
    else judgeEach(values, (value) => matcher.test(column.valueCell(value)));
  };
  return column.rowsWhere(judge, candidates, judging);
}

/** The place that a search had come to when its time was up. */
interface Stopped {
  readonly matcher: Matcher;
  readonly column: number;
  /** The segment's version: what is known here is true of its cells as they were then. */
  readonly version: number;
  readonly judging: Judging;
  /** The index's answer, once it has given one. */
  indexed?: { readonly rows: RowSet | undefined };
  /** The cells that the index knows nothing of and that were asked by themselves, by row: whether they hit. */
  readonly stale: Map<number, boolean>;
}

/**
 * The answers that one segment gives to a search, leaf by leaf. If its time is up in the middle, what was told by then stays told, and
 * the verdicts on single values do, too.
 */
export class SegmentAnswers {
  private readonly told = new Map<Matcher, (RowSet | undefined | null)[]>();
  private stopped: Stopped | undefined;

  constructor(readonly segment: Segment) {}

  /** Rows whose cell in one column hits; not to be written to. Undefined if none. @throws TimeIsUp */
  hits(column: number, matcher: Matcher): RowSet | undefined {
    let columns = this.told.get(matcher);
    if (!columns) this.told.set(matcher, (columns = []));
    const known = columns[column];
    if (known !== undefined) return known ?? undefined;
    const rows = this.ask(column, matcher);
    columns[column] = rows ?? null;
    return rows;
  }

  private ask(column: number, matcher: Matcher): RowSet | undefined {
    const part = this.segment.columns[column];
    const { stopped } = this;
    const { version } = this.segment.changes;
    // Which values are asked may follow from answers that were true of the rows before a change.
    const goesOn = stopped?.matcher === matcher && stopped.column === column && stopped.version === version;
    const asking: Stopped = goesOn
      ? stopped
      : { matcher, column, version, judging: new Judging(), stale: new Map<number, boolean>() };
    this.stopped = asking;
    const test: TestRow = (row, cell) => {
      let hits = asking.stale.get(row);
      if (hits === undefined) {
        asking.stale.set(row, (hits = matcher.test(cell)));
        spend(cell.raw.length);
      }
      return hits;
    };
    const known = rememberedHits(this.segment, column, matcher, test);
    if (known) {
      this.stopped = undefined;
      return known.rows;
    }
    asking.indexed ??= { rows: indexedRows(this.segment, column, matcher, asking.judging) };
    let { rows } = asking.indexed;
    if (part.staleCount > 0) rows = part.corrected(rows && ownBits(rows, part.rowCount), test);
    this.stopped = undefined;
    // The index's own sets are kept as they are: they take no room.
    if (rows && !isFew(rows)) rows = asFew(rows);
    remember(this.segment, column, matcher, rows);
    return rows;
  }

  /** Rows of the segment that answer a plan, removed rows not left out. The set is the caller's own. @throws TimeIsUp */
  rows(plan: Plan): Bits {
    const { segment } = this;
    switch (plan.type) {
      case 'hit': {
        let rows: Bits | undefined;
        for (const column of plan.columns) {
          const hits = this.hits(column, plan.matcher);
          if (!hits) continue;
          if (rows) addRows(rows, hits);
          else rows = ownBits(hits, segment.rowCount);
        }
        return rows ?? emptyBits(segment.rowCount);
      }
      case 'not': {
        const rows = segment.live.slice();
        dropBits(rows, this.rows(plan.of));
        return rows;
      }
      default: {
        let rows: Bits | undefined;
        for (const part of plan.of) {
          // Of what none has all so far, none has all.
          if (plan.type === 'all' && rows && isEmpty(rows)) break;
          const partRows = this.rows(part);
          if (!rows) rows = partRows;
          else if (plan.type === 'all') keepBits(rows, partRows);
          else addBits(rows, partRows);
        }
        return rows!;
      }
    }
  }
}

/**
 * A plan over one segment: sets of rows, from the leaves up. What a matcher answered for a column is remembered until the
 * segment changes, so that a keystroke only pays for the keyword it changed.
 */
import {
  addBits, dropBits, emptyBits, isEmpty, keepBits,
  type Bits, type ColumnSegment, type Segment,
} from '../store/index.js'; // prettier-ignore
import type { Plan } from './compile.js';
import { judgeEach, type Matcher } from './matcher.js';

/** Answers remembered per column of a segment. */
const REMEMBERED = 24;

/** What one column of a segment was asked lately. The last answer stands apart, since it is asked for again at once. */
interface Memory {
  version: number;
  key: string;
  answer: Bits | undefined;
  readonly answers: Map<string, Bits | undefined>;
}

const memories = new WeakMap<Segment, Memory[]>();

function memoryOf(segment: Segment, column: number): Memory {
  let columns = memories.get(segment);
  if (!columns) memories.set(segment, (columns = []));
  let memory = columns[column];
  if (!memory || memory.version !== segment.version) {
    memory = { version: segment.version, key: '', answer: undefined, answers: new Map() };
    columns[column] = memory;
  }
  return memory;
}

function rowsOfAny(column: ColumnSegment, group: readonly string[]): Bits | undefined {
  if (group.length === 1) return column.vocabulary.rowsContaining(group[0]);
  let any: Bits | undefined;
  for (const piece of group) {
    const rows = column.vocabulary.rowsContaining(piece);
    if (!rows) continue;
    any ??= emptyBits(column.rowCount);
    addBits(any, rows);
  }
  return any;
}

function indexedRows(column: ColumnSegment, matcher: Matcher): Bits | undefined {
  if (matcher.indexedRows) return matcher.indexedRows(column);
  const { pieces, exact } = matcher.filter;
  let candidates: Bits | undefined;
  for (const group of pieces) {
    const rows = rowsOfAny(column, group);
    if (!rows) return undefined;
    if (exact) return rows;
    if (candidates) keepBits(candidates, rows);
    else candidates = rows.slice();
  }
  if (candidates && isEmpty(candidates)) return undefined;
  return column.rowsWhere((asked) => {
    if (matcher.judge) matcher.judge(column, asked);
    else judgeEach(asked, (value) => matcher.test(column.valueCell(value)));
  }, candidates);
}

/** Rows of a segment whose cell in one column hits; not to be written to. Undefined if none. */
export function hitRows(segment: Segment, column: number, matcher: Matcher): Bits | undefined {
  const memory = memoryOf(segment, column);
  const { key } = matcher;
  if (memory.key === key) return memory.answer;
  const { answers } = memory;
  let answer = answers.get(key);
  if (answer === undefined && !answers.has(key)) {
    const part = segment.columns[column];
    let rows = indexedRows(part, matcher);
    if (part.staleCount > 0) rows = part.corrected(rows?.slice(), (cell) => matcher.test(cell));
    answer = rows && !isEmpty(rows) ? rows : undefined;
    if (answers.size >= REMEMBERED) answers.delete(answers.keys().next().value!);
    answers.set(key, answer);
  }
  memory.key = key;
  memory.answer = answer;
  return answer;
}

/** Rows of a segment that answer the plan, removed rows not left out. The set is the caller's own. */
export function planRows(segment: Segment, plan: Plan): Bits {
  switch (plan.type) {
    case 'hit': {
      const rows = emptyBits(segment.rowCount);
      for (const column of plan.columns) {
        const hits = hitRows(segment, column, plan.matcher);
        if (hits) addBits(rows, hits);
      }
      return rows;
    }
    case 'not': {
      const rows = segment.live.slice();
      dropBits(rows, planRows(segment, plan.of));
      return rows;
    }
    default: {
      let rows: Bits | undefined;
      for (const part of plan.of) {
        const partRows = planRows(segment, part);
        if (!rows) rows = partRows;
        else if (plan.type === 'all') keepBits(rows, partRows);
        else addBits(rows, partRows);
      }
      return rows!;
    }
  }
}

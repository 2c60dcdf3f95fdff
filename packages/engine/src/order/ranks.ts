/** Ranks: for every row of a column, the place of its value among the column's distinct values. Blanks rank last of all. */
import { isBlank } from '../text/index.js';
import type { Table } from '../store/index.js';
import { compareTexts } from './collation.js';
import { sortKey } from './sort-keys.js';

/** Rank of a blank cell, or of one whose kind cannot read it. */
export const LAST = 0xffffffff;

export interface Ranks {
  /** Rank of each slot: rows of all segments in order, removed ones too. */
  readonly ranks: Uint32Array;
  /** How many distinct ranks there are, apart from LAST. */
  readonly count: number;
}

interface Ranked {
  readonly text: string;
  readonly key: string | undefined;
}

function compareRanked(a: Ranked, b: Ranked): number {
  if (a.key !== undefined && b.key !== undefined && a.key !== b.key) return a.key < b.key ? -1 : 1;
  return compareTexts(a.text, b.text);
}

/** Distinct values with the rank of each; equal in the order means equal rank. */
function rankTexts(
  texts: Iterable<string>,
  order: readonly string[] | undefined,
): { rankOf: Map<string, number>; count: number } {
  const custom = order !== undefined && order.length > 0;
  const entries = Array.from(texts, (text): Ranked => ({ text, key: custom ? undefined : sortKey(text.trim()) }));
  const compare = custom ? (a: Ranked, b: Ranked) => compareTexts(a.text, b.text, order) : compareRanked;
  entries.sort(compare);
  const rankOf = new Map<string, number>();
  let rank = -1;
  entries.forEach((entry, i) => {
    if (i === 0 || compare(entries[i - 1], entry) !== 0) rank++;
    rankOf.set(entry.text, rank);
  });
  return { rankOf, count: rank + 1 };
}

function slotCount(table: Table): number {
  return table.segments.reduce((sum, { rowCount }) => sum + rowCount, 0);
}

function textRanks(table: Table, column: number): Ranks {
  const distinct = new Set<string>();
  const { order } = table.columns[column];
  for (const { columns } of table.segments) for (const text of columns[column].currentTexts()) distinct.add(text);
  for (const text of distinct) if (isBlank(text)) distinct.delete(text);
  const { rankOf, count } = rankTexts(distinct, order);
  const ranks = new Uint32Array(slotCount(table));
  let slot = 0;
  for (const { columns, rowCount } of table.segments) {
    const part = columns[column];
    const byCode = new Uint32Array(part.valueCount);
    for (let code = 0; code < byCode.length; code++) byCode[code] = rankOf.get(part.raw.at(code)) ?? LAST;
    for (let row = 0; row < rowCount; row++) ranks[slot + row] = byCode[part.codes[row]];
    part.eachChanged((row, text) => (ranks[slot + row] = rankOf.get(text) ?? LAST));
    slot += rowCount;
  }
  return { ranks, count };
}

function valueRanks(table: Table, column: number): Ranks {
  const values = new Float64Array(slotCount(table));
  let slot = 0;
  for (const { columns, rowCount } of table.segments) {
    const part = columns[column];
    for (let row = 0; row < rowCount; row++) values[slot + row] = part.values[part.codes[row]];
    part.eachChanged((row) => (values[slot + row] = part.cell(row).value ?? NaN));
    slot += rowCount;
  }
  const distinct = Float64Array.from(new Set(values.filter((value) => !Number.isNaN(value)))).sort();
  const rankOf = new Map<number, number>();
  distinct.forEach((value, rank) => rankOf.set(value, rank));
  return { ranks: Uint32Array.from(values, (value) => rankOf.get(value) ?? LAST), count: distinct.length };
}

const remembered = new WeakMap<Table, { version: number; columns: Map<number, Ranks> }>();

/** Ranks of a column, remembered until the table changes. */
export function ranksOf(table: Table, column: number): Ranks {
  let memory = remembered.get(table);
  if (!memory || memory.version !== table.version) {
    memory = { version: table.version, columns: new Map() };
    remembered.set(table, memory);
  }
  let ranks = memory.columns.get(column);
  if (!ranks) {
    const { kind } = table.columns[column];
    ranks = kind === 'number' || kind === 'date' ? valueRanks(table, column) : textRanks(table, column);
    memory.columns.set(column, ranks);
  }
  return ranks;
}

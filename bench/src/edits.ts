/**
 * The cost of an edit to the next search: a list is searched, searched again, a row is edited, and the same is searched once more, a
 * thousand times over; then rows are added.
 */
import { foundItems } from '@usual-needle/demo';
import { blankQuestion, Search, Table, warmUp, windowRows, type Question } from '@usual-needle/engine';
import { COLUMNS, FROM } from './columns.js';
import { figures, line } from './figures.js';

const EDITS = 1_000;
const BUDGET_MS = 5;

function tableOf(count: number): Table {
  const { rows } = foundItems(count);
  const table = new Table(COLUMNS);
  let id = 0;
  for (const cells of rows) table.append([{ id: ++id, cells: FROM.map((place) => cells[place]) }], true);
  table.append([]);
  for (const _ of table.buildIndexes()) void _;
  return table;
}

function searched(table: Table, question: Question): number {
  const start = performance.now();
  const search = new Search(table, question).run();
  windowRows(search, 0, 40, [0, 1, 2, 3, 4, 5, 6, 7]);
  return performance.now() - start;
}

export function benchEdits(size: number): void {
  const table = tableOf(size);
  for (const _ of warmUp()) void _;
  console.log(
    `\n${EDITS} edits in a row, ${size.toLocaleString('en')} rows x ${COLUMNS.length}: budget at p95 ${BUDGET_MS} ms more than without an edit`,
  );
  const find = (text: string): Question => ({
    ...blankQuestion([0, 1, 2, 3, 4, 6, 7, 9]),
    strands: [{ verb: 'find', text, reading: 'words' }],
  });
  const sort = [{ column: 5, direction: 'down' as const, by: 'value' as const }];
  const lists: [string, Question][] = [
    ['umbr', find('umbr')],
    ['e', find('e')],
    ['nothing typed', find('')],
    ['umbr, sorted by day', { ...find('umbr'), sort }],
    ['nothing typed, sorted by day', { ...find(''), sort }],
  ];
  const values = ['Held', 'Returned', 'umbrella stand', 'e', ''];
  let next = size + 1;
  let seed = 7;
  const random = (below: number): number => {
    seed = (seed * 48_271) % 2_147_483_647;
    return seed % below;
  };
  for (const [name, question] of lists) {
    for (let i = 0; i < 10; i++) searched(table, question);
    // In turn with those after an edit, so that both meet the machine in the same moods.
    const still: number[] = [];
    const edits: number[] = [];
    const after: number[] = [];
    for (let i = 0; i < EDITS; i++) {
      still.push(searched(table, question));
      const id = 1 + random(size);
      const cells = [...table.row(id)!.cells];
      // The day as well, so that the row has another place in the sorted list.
      cells[5] = `2026-0${1 + random(9)}-1${random(9)}`;
      cells[1 + random(7)] = values[random(values.length)];
      const start = performance.now();
      table.apply([{ id, after: cells }]);
      edits.push(performance.now() - start);
      after.push(searched(table, question));
    }
    const before = figures(still);
    console.log(line(`${name}: without an edit`, before));
    console.log(line(`${name}: the edit itself`, figures(edits)));
    console.log(line(`${name}: the search after it`, figures(after)));
    const added: number[] = [];
    for (let i = 0; i < EDITS; i++) {
      table.apply([{ id: next++, after: table.row(1 + random(size))!.cells }]);
      added.push(searched(table, question));
    }
    console.log(line(`${name}: the search after a row is added`, figures(added)));
    const more = (times: number[]): string => `${(figures(times).p95 - before.p95).toFixed(1)} ms`;
    console.log(`  p95 with an edit before it is ${more(after)} more, with an added row ${more(added)}`);
  }
}

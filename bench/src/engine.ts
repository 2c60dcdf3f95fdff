/**
 * The engine by itself, one core: build, memory, and every keystroke of typing traces with the window of rows that a screen
 * shows, beside what one would do without an engine, in the same process.
 */
import { PGlite } from '@electric-sql/pglite';
import { foundItems } from '@usual-needle/demo';
import {
  askAsScreen,
  blankQuestion,
  explain,
  Search,
  Table,
  warmUp,
  windowRows,
  type Question,
  type Row,
  type Settings,
} from '@usual-needle/engine';
import { COLUMNS, FROM } from './columns.js';
import { figures, line } from './figures.js';
import { benchUnusual } from './unusual.js';

type Trace = [name: string, settings: Partial<Settings>, typed: string[]];
type Sort = Question['sort'];

/** The texts that are typed, letter by letter; `<` takes the last letter back. */
const TRACES: Record<string, string[]> = {
  'common words': ['umbrella', 'black', 'wood', 'owner', 'with'],
  'rare words': ['gnome', 'tortoiseshell', 'perishable', 'zzgone', 'quennell'],
  'single letters': ['e', 'a', 'o', 'x', '4', '-'],
  'back-spacing': ['umbre<<<<<<', 'walking stick<<<<<<<<<<<<<', 'serial<<<<keys<<<<'],
  serials: ['lp-40518', 'S/N KXWD-4', '217', '0612', 'ZT-4471'],
  'several keywords': ['umbrella wood black', 'key lan red', 'old tablet crack', 'e a o'],
  'without and either': ['umbrella -wood', 'phone | tablet', '(hat | scarf) -wool', '-e'],
  scoped: ['status:held', 'colour:red umb', 'found:2026-03..2026-05', 'decl>100', 'status:=held ring'],
  wildcards: ['um*la', 'LP-4?5*', 'w??d', '"wooden crook"'],
  'patterns with a literal': ['/umb.*wood/', '/lp-40\\d{3}/', '/ring|earring/'],
  'near spelling': ['~umbrela', '~walet', '~brukl', '~mahagony'],
  accents: ['brückl', 'søndre', 'łucja'],
};

/** Questions beyond what is usual: next to nothing to look up, or settings that the index is not made for. Told apart from the rest. */
const HARD_TRACES: Trace[] = [
  ['short wildcards', {}, ['s?t*e', 'e?e', 'a*o', '?b', 'lp-?1']],
  ['case respected', { case: 'respect' }, ['Umbrella', 'wood']],
  ['accents respected', { accents: 'respect' }, ['brückl', 'owner']],
  ['at the start of a word', { where: 'start of a word' }, ['umbrella', 'e', 'w?d']],
  ['at the end of the cell', { where: 'end of the cell' }, ['crook', '405']],
];

/** Questions as a list is used: sorted, and typed into. */
const SORTED: { name: string; sort: Sort }[] = [
  { name: 'sorted by text', sort: [{ column: 1, direction: 'up', by: 'value' }] },
  {
    name: 'sorted by date, then text',
    sort: [
      { column: 5, direction: 'down', by: 'value' },
      { column: 1, direction: 'up', by: 'value' },
    ],
  },
  { name: 'sorted by how many rows share a value', sort: [{ column: 3, direction: 'down', by: 'count' }] },
];

/** Held to throughput: there is nothing in them to look up. */
const NO_LITERAL = ['/[a-z]+ing\\b/', '/\\d{4}$/', '/^[^e]*$/', '?*?', '*'];

function keystrokes(typed: string): string[] {
  const texts: string[] = [];
  let text = '';
  for (const key of typed) {
    text = key === '<' ? text.slice(0, -1) : text + key;
    texts.push(text);
  }
  return texts;
}

function timed(work: () => void): number {
  const start = performance.now();
  work();
  return performance.now() - start;
}

function megabytes(bytes: number): string {
  return `${(bytes / 1e6).toFixed(0)} MB`;
}

async function ilike(rows: readonly (readonly string[])[], words: readonly string[]): Promise<number[]> {
  const db = await PGlite.create();
  const names = COLUMNS.map((_, i) => `c${i}`);
  await db.exec(`create table t (${names.map((name) => `${name} text`).join(', ')})`);
  for (let i = 0; i < rows.length; i += 50_000) {
    const text = rows
      .slice(i, i + 50_000)
      .map((cells) => cells.map((cell) => cell.replace(/[\\\t\n\r]/g, ' ')).join('\t'))
      .join('\n');
    await db.query("copy t from '/dev/blob'", [], { blob: new Blob([`${text}\n`]) });
  }
  const times: number[] = [];
  for (const word of words) {
    const where = names.map((name) => `${name} ilike $1`).join(' or ');
    const start = performance.now();
    await db.query(`select count(*) from t where ${where}`, [`%${word}%`]);
    times.push(performance.now() - start);
  }
  await db.close();
  return times;
}

function* rowsOf(size: number): Generator<Row> {
  let id = 0;
  for (const cells of foundItems(size).rows) yield { id: ++id, cells: FROM.map((at) => cells[at]) };
}

export async function benchEngine(size: number): Promise<void> {
  console.log(`\n== engine, ${size.toLocaleString('en')} rows x ${COLUMNS.length} columns, one core`);
  globalThis.gc?.();
  const before = process.memoryUsage();
  let table!: Table;
  const load = timed(() => (table = new Table(COLUMNS, rowsOf(size))));
  const index = timed(() => {
    for (const _ of table.buildIndexes()) void _;
  });
  console.log(
    `build: store ${(load / 1000).toFixed(1)} s, indexes ${(index / 1000).toFixed(1)} s; held by the engine's own count ${megabytes(table.bytes)}`,
  );

  const warm = timed(() => {
    for (const _ of warmUp()) void _;
  });
  console.log(`warmed up, as the server does when it has started: ${warm.toFixed(0)} ms`);

  const slowest: { text: string; time: number }[] = [];
  const run = (traces: readonly Trace[]): number[] =>
    traces.flatMap(([name, settings, typed]) => {
      const times = typed.flatMap(keystrokes).map((text) => {
        const time = timed(() => void askAsScreen(table, text, settings));
        slowest.push({ text, time });
        return time;
      });
      console.log(line(name, figures(times)));
      return times;
    });
  const tellSlowest = (): void => {
    slowest.sort((a, b) => b.time - a.time);
    console.log(
      `slowest: ${slowest
        .slice(0, 12)
        .map(({ text, time }) => `${text} ${time.toFixed(0)}`)
        .join(' · ')}`,
    );
    slowest.length = 0;
  };
  const every = figures(run(Object.entries(TRACES).map(([name, typed]) => [name, {}, typed])));
  console.log(line('EVERY KEYSTROKE (budget p95 16, worst 50)', every));
  tellSlowest();
  const hard = figures(run(HARD_TRACES));
  console.log(line('beyond the usual', hard));
  tellSlowest();

  globalThis.gc?.();
  benchUnusual(table);

  globalThis.gc?.();
  const held = process.memoryUsage();
  console.log(`process: ${megabytes(held.rss - before.rss)} more than before the table was made`);
  // Made only now: a million rows of separate strings weigh on every collection of garbage.
  const raw = Array.from(rowsOf(size), ({ cells }) => cells);
  const words = ['umbrella', 'wood', 'gnome', 'lp-40518'];
  const letters = raw.reduce((sum, cells) => sum + cells.reduce((inner, cell) => inner + cell.length, 0), 0);
  for (const text of NO_LITERAL) {
    const first = new Search(table, {
      ...blankQuestion(COLUMNS.map((_, i) => i)),
      strands: [{ verb: 'find', text, reading: 'words' }],
    });
    const toFirst = timed(() => {
      while (first.shown < 40 && first.step());
      windowRows(
        first,
        0,
        40,
        COLUMNS.map((_, i) => i),
      );
    });
    const rest = timed(() => void first.run());
    const rate = letters / 1e6 / ((toFirst + rest) / 1000);
    console.log(
      `${text.padEnd(46)} first rows ${toFirst.toFixed(1)} ms, all ${(toFirst + rest).toFixed(0)} ms, ${rate.toFixed(0)} MB/s (budget 50 ms, 100 MB/s)`,
    );
  }
  const explained = timed(
    () =>
      void explain(table, {
        ...blankQuestion([1, 4, 9]),
        strands: [{ verb: 'find', text: 'umbrelaq mahogany', reading: 'words' }],
      }),
  );
  const again = timed(
    () =>
      void explain(table, {
        ...blankQuestion([1, 4, 9]),
        strands: [{ verb: 'find', text: 'walett tortoisehsell', reading: 'words' }],
      }),
  );
  console.log(`explain nothing found: ${explained.toFixed(0)} ms, ${again.toFixed(0)} ms (budget 100 ms)`);
  for (const { name, sort } of SORTED) {
    const ask = (text: string): void => void askAsScreen(table, text, {}, sort);
    const first = timed(() => ask(''));
    const typed = ['umbrella wood', 'e', 'key lan red'].flatMap(keystrokes);
    const edits = typed.map((text, i) => {
      const { cells } = table.row(1 + i)!;
      table.change(
        1 + i,
        cells.map((cell, column) => (column === 1 ? `${cell} again` : cell)),
      );
      return timed(() => ask(text));
    });
    console.log(line(`${name}, a keystroke`, figures(typed.map((text) => timed(() => ask(text))))));
    console.log(
      `${''.padEnd(46)} first time ${first.toFixed(0)} ms; right after an edit p95 ${figures(edits).p95.toFixed(1)} ms`,
    );
  }

  const includes = figures(
    words.map((word) =>
      timed(() => void raw.filter((cells) => cells.some((cell) => cell.toLowerCase().includes(word))).length),
    ),
  );
  const joined = COLUMNS.map((_, i) => raw.map((cells) => cells[i].toLowerCase()).join('\n'));
  const indexOf = figures(
    words.map((word) =>
      timed(() => {
        for (const text of joined) for (let at = text.indexOf(word); at >= 0; at = text.indexOf(word, at + 1));
      }),
    ),
  );
  console.log(line('baseline: row by row toLowerCase().includes', includes));
  console.log(line('baseline: one joined string a column, indexOf', indexOf));
  const sql = figures(await ilike(raw, words));
  console.log(line('baseline: ILIKE in PGlite', sql));
  const times = (ours: number): string => `${(includes.p50 / ours).toFixed(0)}x`;
  console.log(
    `against includes: p95 ${times(every.p95)} (to reach 64x), worst ${times(every.worst)} (28x); beyond the usual p95 ${times(hard.p95)} (28x)`,
  );
  console.log(
    `p50 of a keystroke against them: ${(includes.p50 / every.p50).toFixed(0)}x includes, ${(indexOf.p50 / every.p50).toFixed(0)}x indexOf, ${(sql.p50 / every.p50).toFixed(0)}x ILIKE (budget: p95 40x, 150x; here p95 ${(includes.p50 / every.p95).toFixed(0)}x, ${(sql.p50 / every.p95).toFixed(0)}x)`,
  );
}

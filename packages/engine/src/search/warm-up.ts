/**
 * The platform compiles what runs often, and only then runs it fast. A small table is asked a little of everything, so that
 * nobody's first keystroke is the one that is run slowly.
 */
import { DEFAULT_SETTINGS, type Settings } from '../notation/index.js';
import { Table, type ColumnSpec, type Row } from '../store/index.js';
import { blankQuestion, type Question } from './question.js';
import { Search } from './search.js';
import { traceOf } from './answer/trace.js';
import { windowRows } from './answer/window.js';

const COLUMNS: ColumnSpec[] = [
  { name: 'Text', kind: 'text' },
  { name: 'Serial', kind: 'text' },
  { name: 'Value', kind: 'number' },
  { name: 'Choice', kind: 'choice' },
  { name: 'Marks', kind: 'text' },
];
const WORDS =
  'amber basket candle drawer engine feather garden hammer island jacket kettle ladder meadow needle orchard pocket quilt ribbon saddle timber urchin velvet window yarn café Straße child’s'.split(
    ' ',
  );
/** Letters beside numbers of which each is another: some of it in many, some in few. */
const LETTERS = ['n', 'k', 'v', 'r', 'ne', 't', '-', 'w', 'x', 'd', 'kv', 'n-', 'm', 'E', 'rt', 'b', 'q'];
/** More than fill the first, short segment, so that there are two. */
const ROWS = 24_003;

/** Texts to search for. Those that take turns that others do not come first: what is compiled without knowing of them is thrown away by them. */
const TEXTS = [
  'dle',
  '54n',
  '05',
  '5',
  'n',
  'ne',
  'need',
  'needle am',
  'n?',
  'n??d',
  '?n',
  '?d',
  'e?',
  'e?e',
  'd?e',
  'ne*e',
  'ne*',
  'a*d*e',
  '4?5',
  '45',
  'sn-?1',
  '-need',
  'amber | velvet',
  '"le n"',
  'text:ga',
  'value>50',
  'choice:=amber',
  '=needle',
  '=sn-10',
  '~neddle',
  '<blank>',
  '/n.e+d/',
  '/\\d{3}$/',
  '/[a-z]+ing\\b/',
  '/^[^e]*$/',
  '/e.{30}n/',
  '/[ae].{25,35}\\bn/',
  '/(?:[ae]?){400}.{400}$/',
  '*',
  'cafe',
  'café',
  'zz',
];
const SETTINGS: Partial<Settings>[] = [
  {},
  { case: 'respect' },
  { where: 'start of a word' },
  { accents: 'respect' },
  { where: 'end of the cell' },
];

function* rows(): Generator<Row> {
  const word = (at: number): string => WORDS[at % WORDS.length];
  for (let id = 1; id <= ROWS; id++) {
    // Of all lengths, and none as often as another.
    const text = [id, id >>> 2, (id * id) >>> 5, id * 7, id >>> 9]
      .slice((id * id) % 5)
      .map(word)
      .join(' ');
    const marks =
      id % 4 === 0
        ? ''
        : `${word(id)} ${word(id >>> 2)} ${LETTERS[id % 17]}${(id * 7919) % 100_003}${id % 64 === 0 ? 'é' : LETTERS[id % 13]}`;
    const value = id % 3 === 0 ? '' : String(((id * 37) % 500_003) / 100);
    yield { id, cells: [text, `SN-${10_000 + id}`, value, word(id >>> 3), marks] };
  }
}

/** Asks all columns as a screen does: the search, its first rows, its trace. */
export function askAsScreen(
  table: Table,
  text: string,
  settings: Partial<Settings> = {},
  sort: Question['sort'] = [],
): Search {
  const all = table.columns.map((_, column) => column);
  const search = new Search(table, {
    ...blankQuestion(all),
    settings: { ...DEFAULT_SETTINGS, ...settings },
    strands: [{ verb: 'find', text, reading: 'words' }],
    sort,
  }).run();
  windowRows(search, 0, 40, all);
  if (search.asks) traceOf(search, 250);
  return search;
}

/**
 * Takes a second and a half in all, and keeps nothing. In small steps, so that others can be answered between them; what is usual comes
 * first, and takes a third of it.
 * @param each called for each search, to have done with it what will be done with others
 */
export function* warmUp(each: (search: Search) => void = () => undefined): Generator<'usual' | undefined> {
  const table = new Table(COLUMNS);
  const filling = table.appendSteps(rows());
  while (!filling.next().done) yield;
  const building = table.buildIndexes();
  while (!building.next().done) yield;
  for (const some of SETTINGS) {
    for (const text of TEXTS) {
      each(askAsScreen(table, text, some));
      yield;
    }
    if (some === SETTINGS[0]) yield 'usual';
  }
}

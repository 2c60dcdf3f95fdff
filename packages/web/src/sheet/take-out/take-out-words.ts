/** The sentence of taking out: its phrases, each with its choices. */
import { plural, rowsCounted } from '../../services/numbers';
import type { How } from './how';

/** A choice of a phrase: how it reads in the sentence, and what it changes. */
interface Choice {
  readonly text: string;
  readonly change: Partial<How>;
}

/** A phrase of the sentence. Where it has choices it is underlined, and opens them. */
export interface TakeOutPhrase {
  readonly text: string;
  readonly choices?: readonly Choice[];
  /** The thing that the choices are about, for who does not see where they stand. */
  readonly about?: string;
}

/** How many rows and columns there are to be taken out. */
export interface Counts {
  readonly shown: number;
  /** Rows selected; 0 where no more than one cell is. */
  readonly selected: number;
  /** Rows that are not on show; 0 where they cannot be had. */
  readonly others: number;
  readonly columns: number;
  readonly allColumns: number;
  readonly sorted: boolean;
}

const FORMS: readonly { readonly text: string; readonly change: { readonly form: How['form'] } }[] = [
  { text: 'a spreadsheet file', change: { form: 'xlsx' } },
  { text: 'CSV', change: { form: 'csv' } },
  { text: 'JSON', change: { form: 'json' } },
  { text: 'JSON, a line for each row', change: { form: 'ndjson' } },
  { text: 'a page to print', change: { form: 'page' } },
];

const theRows = (count: number, what: string): string =>
  count === 1 ? `the 1 row ${what}` : `the ${rowsCounted(count)} ${what}`;

/** A phrase of choices, of which one holds. */
function phrase(about: string, choices: readonly Choice[], how: How): TakeOutPhrase {
  const holds = ({ change }: Choice): boolean =>
    Object.entries(change).every(([key, value]) => how[key as keyof How] === value);
  const { text } = choices.find(holds) ?? choices[0];
  return choices.length < 2 ? { text } : { text, choices, about };
}

function rowsOf({ shown, selected, others }: Counts): Choice[] {
  return [
    { text: theRows(shown, 'on show'), change: { rows: 'on show' } },
    ...(selected > 0 ? [{ text: theRows(selected, 'selected'), change: { rows: 'selected' as const } }] : []),
    ...(others > 0 ? [{ text: theRows(others, 'not on show'), change: { rows: 'others' as const } }] : []),
  ];
}

function columnsOf({ columns, allColumns }: Counts): Choice[] {
  const shown: Choice = { text: `the ${plural(columns, 'column')} on show`, change: { columns: 'on show' } };
  return columns === allColumns
    ? [{ ...shown, text: 'every column' }]
    : [shown, { text: `all ${plural(allColumns, 'column')}`, change: { columns: 'every column' } }];
}

const MARKS: readonly Choice[] = [
  { text: 'without marks', change: { marks: false } },
  { text: 'with the marks', change: { marks: true } },
];

/** Says of a form what there is to choose besides its name. */
function settings(how: How): TakeOutPhrase[] {
  const comma: TakeOutPhrase = { text: ', ' };
  switch (how.form) {
    case 'xlsx':
      return [
        comma,
        phrase('Hits', [MARKS[0], { text: 'with hits in bold', change: { marks: true } }], how),
        { text: '. It is safe to open: what looks like a formula stays text.' },
      ];
    case 'csv':
      return [
        comma,
        phrase(
          'The sign between cells',
          [
            { text: 'parted by commas', change: { delimiter: 'comma' } },
            { text: 'parted by semicolons', change: { delimiter: 'semicolon' } },
            { text: 'parted by tabs', change: { delimiter: 'tab' } },
          ],
          how,
        ),
        comma,
        phrase(
          'Its beginning',
          [
            { text: 'as plain UTF-8', change: { mark: false } },
            { text: 'with a byte-order mark, as spreadsheet programs like it', change: { mark: true } },
          ],
          how,
        ),
        comma,
        phrase(
          'Cells that look like formulas',
          [
            { text: 'to the letter', change: { safe: false } },
            { text: 'safe to open', change: { safe: true } },
          ],
          how,
        ),
        { text: how.safe ? ': what looks like a formula gets an apostrophe before it.' : '.' },
      ];
    case 'page':
      return [comma, phrase('Marks', MARKS, how), { text: '.' }];
    default:
      return [comma, phrase('Marks', MARKS, how), { text: '.' }];
  }
}

export function takeOutSentence(how: How, counts: Counts): TakeOutPhrase[] {
  return [
    { text: 'Takes out ' },
    phrase('Rows', rowsOf(counts), how),
    { text: ' with ' },
    phrase('Columns', columnsOf(counts), how),
    { text: `, in ${counts.sorted ? 'this order' : 'the table’s own order'}, as ` },
    phrase('Form', FORMS, how),
    ...settings(how),
  ];
}

const UNITS = ['bytes', 'kB', 'MB', 'GB'];

/** About how large: one or two digits, as good as a guess is. */
export function aboutBytes(bytes: number): string {
  let [size, unit] = [bytes, 0];
  for (; size >= 1_000 && unit < UNITS.length - 1; unit++) size /= 1_000;
  const digits = Math.max(1, 10 ** Math.max(0, Math.floor(Math.log10(Math.max(1, size))) - 1));
  return `about ${Math.round(size / digits) * digits} ${UNITS[unit]}`;
}

/** The rest of the time of something that has come so far, in words. @param seconds since it began */
export function timeLeft(done: number, of: number, seconds: number): string {
  if (done === 0 || seconds <= 0) return '';
  const left = ((of - done) * seconds) / done;
  return left < 90 ? `${Math.max(1, Math.round(left))} s left` : `${Math.round(left / 60)} min left`;
}

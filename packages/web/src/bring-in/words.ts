/** The words of the preview: of the file, of its columns, and of what wants a look. */
import type { Encoding, FileChoices } from '@usual-needle/contract';
import { ENCODING_NAMES, type ColumnLook, type FileFindings, type Look, type Trouble } from '@usual-needle/formats';
import { counted, plural } from '../services/numbers';
import type { ChosenColumn } from './sent-choices';

export const DELIMITER_NAMES: Readonly<Record<string, string>> = {
  ',': 'comma',
  ';': 'semicolon',
  '\t': 'tab',
  '|': 'stroke',
};

export function formatWords({ format, delimiter = ',', packed }: FileFindings): string {
  const plain = {
    csv: `${DELIMITER_NAMES[delimiter] ?? `“${delimiter}”`}-separated`,
    json: 'a JSON array',
    ndjson: 'JSON, a row a line',
    xlsx: 'a workbook',
    ods: 'an OpenDocument sheet',
  }[format];
  return packed ? `gzipped ${plain}` : plain;
}

export function encodingWords(encoding: Encoding | undefined): string {
  return ENCODING_NAMES[encoding ?? 'utf-8'];
}

/** A column's kind in words, as its head says it. */
export function kindWords({
  column,
  taken,
  values,
  example,
}: Pick<ColumnLook, 'column' | 'taken' | 'values' | 'example'>): string {
  if (!taken) return 'left out';
  const { kind, dateOrder, decimal } = column;
  if (kind === 'date') return dateOrder && dateOrder !== 'year first' ? `date, ${dateOrder}` : 'date';
  if (kind === 'number')
    return decimal === 'comma' ? `number, ${/,\d/.test(example) ? example : '1.250,50'}` : 'number';
  if (kind === 'choice' && values !== undefined) return `choice of ${values}`;
  return kind;
}

/** A way out of a trouble, and what it chooses. */
export interface WayOut {
  readonly words: string;
  readonly change: Partial<FileChoices> | { readonly column: number; readonly to: ChosenColumn };
}

interface TroubleWords {
  /** How many there are, and in which column, in bold; and the rest. */
  readonly count: string;
  readonly column?: string;
  readonly says: string;
  /** The mending that is done if nothing is chosen. */
  readonly done: string;
  readonly ways: readonly WayOut[];
  /** Whether its rows can be shown. */
  readonly shows: boolean;
}

const quoted = (examples: Trouble['examples']): string =>
  examples.length === 0 ? '' : `: ${examples.map(({ text }) => `“${text}”`).join(', ')} …`;

const lines = (examples: Trouble['examples']): string => {
  const told = examples.map(({ line }) => counted(line));
  return told.length === 0 ? '' : `: ${told.length === 1 ? 'line' : 'lines'} ${told.join(', ')}`;
};

const MANY: Readonly<Record<'tooMany' | 'tooFew', readonly WayOut[]>> = {
  tooMany: [
    { words: 'Join the cell', change: { tooMany: 'join' } },
    { words: 'Drop the cell', change: { tooMany: 'drop' } },
    { words: 'Leave the rows out', change: { tooMany: 'leave out' } },
  ],
  tooFew: [
    { words: 'Fill with blanks', change: { tooFew: 'fill' } },
    { words: 'Leave the rows out', change: { tooFew: 'leave out' } },
  ],
};

const DONE: Readonly<Record<string, string>> = {
  join: 'The cell is joined to the one before it.',
  drop: 'The cell is dropped.',
  fill: 'The cells that are missing are blank.',
  'leave out': 'These rows are left out.',
};

/** The hundred years that two digits may stand for: those up to next year, or those of a century. */
function hundreds(): readonly number[] {
  const next = new Date().getFullYear() + 1;
  const century = Math.floor(next / 100) * 100;
  return [...new Set([next - 99, century, century - 100])];
}

/** Dates whose years have two digits: of which hundred years they are, and where that is open, whether days or months come first. */
function centuryWords(
  { what, column: i, count, examples }: Trouble,
  { column, found }: ColumnLook,
  firstYear: number | undefined,
): TroubleWords {
  const order = column.kind === 'date' ? column.dateOrder : found.dateOrder;
  const orders = order === undefined || order === 'year first' ? (['day first', 'month first'] as const) : [order];
  const ways = orders.flatMap((dateOrder) =>
    hundreds()
      .filter((first) => first !== firstYear)
      .map((first): WayOut => {
        const years = `${first} to ${first + 99}`;
        const comes = dateOrder === 'day first' ? 'Days first' : 'Months first';
        return {
          words: orders.length === 1 ? `They are ${years}` : `${comes}, years ${years}`,
          change: { column: i, to: { kind: 'date', dateOrder, firstYear: first } },
        };
      }),
  );
  return {
    count: plural(count, 'date'),
    column: column.name,
    says: ` ${count === 1 ? 'has a year' : 'have years'} of two digits${quoted(examples)}`,
    done:
      what === 'century'
        ? `Written as ${firstYear!} to ${firstYear! + 99}.`
        : `Of which century? ${column.kind === 'date' ? 'Kept as written, sorted last.' : 'Kept as text.'}`,
    ways,
    shows: true,
  };
}

/** A trouble in words, and the ways out of it. */
export function troubleWords(trouble: Trouble, look: Look, choices: FileChoices): TroubleWords {
  const { what, count, examples, column: i } = trouble;
  const { column } = look.columns[i] ?? {};
  const asText: WayOut = { words: 'Make it text', change: { column: i, to: { kind: 'text' } } };
  const order = (dateOrder: 'day first' | 'month first'): WayOut => ({
    words: dateOrder === 'day first' ? 'Read days first' : 'Read months first',
    change: { column: i, to: { kind: 'date', dateOrder } },
  });
  switch (what) {
    case 'misfit': {
      const noun = { date: 'date', number: 'number', 'yes/no': 'answer' }[column!.kind as 'date'];
      const cannot = {
        date: count === 1 ? 'is no date' : 'are no dates',
        number: 'cannot be read',
        'yes/no': 'cannot be read',
      };
      const ways = [asText];
      if (column!.kind === 'number')
        ways.push({
          words: column!.decimal === 'comma' ? 'Read decimal points' : 'Read decimal commas',
          change: { column: i, to: { kind: 'number', decimal: column!.decimal === 'comma' ? 'point' : 'comma' } },
        });
      return {
        count: plural(count, noun),
        column: column!.name,
        says: ` ${cannot[column!.kind as 'date']}${quoted(examples)}`,
        done: 'Kept as written, sorted last.',
        ways,
        shows: true,
      };
    }
    case 'open order':
      return {
        count: `${column!.name} could be dates`,
        says: `${quoted(examples)} Days or months first? No cell tells.`,
        done: 'Kept as text.',
        ways: [order('day first'), order('month first')],
        shows: false,
      };
    case 'order': {
      const day = column!.dateOrder === 'day first';
      return {
        count: '',
        says: `${day ? 'Days come before months' : 'Months come before days'} in ${column!.name}: ${plural(count, 'date')} can only be read so.`,
        done: '',
        ways: [order(day ? 'month first' : 'day first')],
        shows: false,
      };
    }
    case 'no value': {
      const isBlank = choices.columns?.[i]?.noValue === 'blank';
      return {
        count: plural(count, 'cell'),
        column: column!.name,
        says: ` ${count === 1 ? 'says' : 'say'} that there is no value${quoted(examples)}`,
        done: isBlank ? 'Made blank.' : 'Kept as written, sorted last.',
        ways: [
          isBlank
            ? { words: 'Keep them as written', change: { column: i, to: { noValue: 'keep' } } }
            : { words: 'Make them blank', change: { column: i, to: { noValue: 'blank' } } },
        ],
        shows: true,
      };
    }
    case 'short years':
    case 'century':
      return centuryWords(trouble, look.columns[i], choices.columns?.[i]?.firstYear);
    case 'unit':
      return {
        count: plural(count, 'number'),
        column: column!.name,
        says: ` ${count === 1 ? 'is' : 'are'} written with ${examples.map(({ text }) => text).join(' and ')}.`,
        done: 'The sign stays in the cell; they are counted and sorted as numbers.',
        ways: [asText],
        shows: false,
      };
    case 'units':
      return {
        count: `${column!.name} could be numbers`,
        says: ` of different kinds: ${examples.map(({ text }) => text).join(', ')}`,
        done: 'Kept as text.',
        ways: (['point', 'comma'] as const).map((decimal) => ({
          words: decimal === 'point' ? 'Read as numbers, with decimal points' : 'Read as numbers, with decimal commas',
          change: { column: i, to: { kind: 'number', decimal } },
        })),
        shows: false,
      };
    case 'near same': {
      const isMended = (choices.columns?.[i]?.instead ?? []).length > 0;
      return {
        count: plural(count, 'cell'),
        column: column!.name,
        says: ` ${count === 1 ? 'is' : 'are'} nearly another value${quoted(examples)}`,
        done: isMended ? 'Written as most cells have it.' : 'Kept as they are.',
        ways: [
          isMended
            ? { words: 'Keep them as they are', change: { column: i, to: { instead: [] } } }
            : {
                words: 'Write them alike',
                change: { column: i, to: { instead: trouble.spellings!.map(([written, usual]) => [written, usual]) } },
              },
        ],
        shows: false,
      };
    }
    case 'spaces': {
      const trims = choices.spaces === 'trim';
      return {
        count: plural(count, 'cell'),
        says: ` ${count === 1 ? 'has' : 'have'} spaces before or after what ${count === 1 ? 'it holds' : 'they hold'}${lines(examples)}`,
        done: trims ? 'They are taken away.' : 'Kept as they are; searching does not mind them.',
        ways: [
          trims
            ? { words: 'Keep the spaces', change: { spaces: 'keep' } }
            : { words: 'Take the spaces away', change: { spaces: 'trim' } },
        ],
        shows: true,
      };
    }
    case 'repeated': {
      const leaves = choices.repeated === 'leave out';
      return {
        count: plural(count, 'row'),
        says: ` ${count === 1 ? 'is a row' : 'are rows'} that ${count === 1 ? 'has' : 'have'} been before, cell by cell${lines(examples)}`,
        done: leaves ? 'Left out.' : 'Brought in again.',
        ways: [
          leaves
            ? { words: 'Bring them in again', change: { repeated: 'keep' } }
            : { words: 'Leave them out', change: { repeated: 'leave out' } },
        ],
        shows: true,
      };
    }
    case 'tooMany':
    case 'tooFew': {
      const chosen = (what === 'tooMany' ? choices.tooMany : choices.tooFew) ?? (what === 'tooMany' ? 'join' : 'fill');
      const has = `${count === 1 ? 'has' : 'have'} ${what === 'tooMany' ? 'a cell too many' : 'too few cells'}`;
      return {
        count: plural(count, 'row'),
        says: ` ${has}${lines(examples)}${what === 'tooMany' ? quoted(examples.slice(0, 1)) : ''}`,
        done: DONE[chosen],
        ways: MANY[what].filter(({ change }) => (change as Record<string, string>)[what] !== chosen),
        shows: chosen !== 'leave out',
      };
    }
    case 'header':
      return {
        count: plural(count, 'column'),
        says: ` ${count === 1 ? 'has' : 'have'} no name, or that of another`,
        done: 'Named by their places. Other names can be given at their heads.',
        ways: [],
        shows: false,
      };
    case 'twice':
      return {
        count: plural(count, 'name'),
        column: '',
        says: ` ${count === 1 ? 'stands' : 'stand'} twice in one object${quoted(examples)}`,
        done: 'The last one counts.',
        ways: [],
        shows: true,
      };
    case 'bytes':
      return {
        count: plural(count, 'letter'),
        says: ` cannot be read in this encoding${lines(examples)}`,
        done: 'Each becomes a \ufffd. Another encoding may be the right one.',
        ways: [{ words: 'Read as Windows-1252', change: { encoding: 'windows-1252' } }],
        shows: false,
      };
    case 'nul':
      return {
        count: plural(count, 'cell'),
        says: ` ${count === 1 ? 'holds' : 'hold'} NUL characters${lines(examples)}`,
        done: 'These are taken out.',
        ways: [],
        shows: true,
      };
    case 'half letter':
      return {
        count: plural(count, 'cell'),
        says: ` ${count === 1 ? 'holds' : 'hold'} half a letter${lines(examples)}`,
        done: 'It becomes a \ufffd.',
        ways: [],
        shows: true,
      };
    case 'tooLong':
      return {
        count: plural(count, 'cell'),
        says: ` ${count === 1 ? 'is' : 'are'} too long${lines(examples)}`,
        done: 'Cut after 100,000 letters.',
        ways: [],
        shows: true,
      };
    default:
      return {
        count: count === 1 ? 'One cell' : plural(count, 'cell'),
        says: ` ${count === 1 ? 'has' : 'have'} a line break in it.`,
        done: 'That is fine.',
        ways: [],
        shows: true,
      };
  }
}

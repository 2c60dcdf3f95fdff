/** What the preview says: of the file, of its columns, and of what wants a look. */
import type { Column, Encoding, FileChoices } from '@usual-needle/contract';
import { ENCODING_NAMES, type ColumnLook, type FileFindings, type Look, type Trouble } from '@usual-needle/formats';
import { counted, plural } from '../services/numbers';

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
  readonly change: Partial<FileChoices> | { readonly column: number; readonly to: Partial<Column> };
}

export interface TroubleWords {
  /** What there is of it, and in which column, in bold; and the rest. */
  readonly count: string;
  readonly column?: string;
  readonly says: string;
  /** What is done about it if nothing is chosen. */
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

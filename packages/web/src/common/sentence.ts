import { BOX_DEFAULTS, type Box } from '@usual-needle/contract';
import { strandsOf } from './question';

/** The settings that have a fixed list of choices. */
export type Choosing = 'need' | 'where' | 'care' | 'effect' | 'nothingTyped' | 'searches' | 'edited';
type Setting = Choosing | 'threaded' | 'columns';

/** A phrase of the sentence. Where it sets something, it is underlined and opens its choices. */
export interface Phrase {
  readonly text: string;
  readonly sets?: Setting;
}

/** `A`, `A and B`, `A, B and C`. */
export function listed(names: readonly string[]): string {
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;
}

/** Names that a sentence has room for; of more, the first ones are told, and how many more there are. */
const MOST_NAMES = 8;
const TOLD_NAMES = 6;

function shortened(names: readonly string[]): string {
  if (names.length <= MOST_NAMES) return listed(names);
  return `${names.slice(0, TOLD_NAMES).join(', ')} … ${names.length - TOLD_NAMES} more`;
}

/** A choice of a phrase: how it reads in the sentence, and what it changes in the box. */
export interface Choice {
  readonly text: string;
  readonly change: Partial<Box>;
}

/** The choices of each phrase but those of columns. */
export const CHOICES: Readonly<Record<Choosing, readonly Choice[]>> = {
  need: [
    { text: 'every word', change: { need: 'every word' } },
    { text: 'any word', change: { need: 'any word' } },
  ],
  where: [
    { text: 'anywhere in the cell', change: { where: 'anywhere' } },
    { text: 'at the start of a word', change: { where: 'start of a word' } },
    { text: 'as a whole word', change: { where: 'whole word' } },
    { text: 'at the start of the cell', change: { where: 'start of the cell' } },
    { text: 'at the end of the cell', change: { where: 'end of the cell' } },
    { text: 'as a whole cell', change: { where: 'whole cell' } },
  ],
  care: [
    { text: 'ignoring case and accents', change: { case: 'ignore', accents: 'ignore' } },
    { text: 'minding case, ignoring accents', change: { case: 'respect', accents: 'ignore' } },
    { text: 'ignoring case, minding accents', change: { case: 'ignore', accents: 'respect' } },
    { text: 'minding case and accents', change: { case: 'respect', accents: 'respect' } },
  ],
  effect: [
    { text: 'Shows only matching rows', change: { effect: 'show only matches' } },
    { text: 'Marks matching cells in place', change: { effect: 'mark in place', grain: 'cells' } },
    { text: 'Marks matching rows in place', change: { effect: 'mark in place', grain: 'rows' } },
    { text: 'Leaves matching rows out', change: { effect: 'leave matches out' } },
  ],
  nothingTyped: [
    { text: 'shows every row', change: { nothingTyped: 'every row' } },
    { text: 'shows no row', change: { nothingTyped: 'no row' } },
  ],
  searches: [
    { text: 'at each keystroke', change: { searches: 'at each keystroke' } },
    { text: 'after a pause', change: { searches: 'after a pause' } },
    { text: 'on Enter', change: { searches: 'on Enter' } },
  ],
  edited: [
    { text: 'moves to its place', change: { edited: 'moves' } },
    { text: 'stays put until sorted anew', change: { edited: 'stays put' } },
  ],
};

/** The choice that a box has made. */
export function chosen(box: Box, sets: Choosing): Choice {
  const holds = ({ change }: Choice): boolean =>
    Object.entries(change).every(
      ([key, value]) => (box[key as keyof Box] ?? BOX_DEFAULTS[key as keyof typeof BOX_DEFAULTS]) === value,
    );
  return CHOICES[sets].find(holds) ?? CHOICES[sets][0];
}

/** The words on an empty box for each effect, where there are no matches: said of effects that show other rows, too. */
const WITHOUT_MATCHES: Readonly<Record<NonNullable<Box['effect']>, string>> = {
  'show only matches': '',
  'mark in place': 'marks nothing and ',
  'leave matches out': 'leaves nothing out and ',
};

function nothingTyped(box: Box): Phrase[] {
  const without = WITHOUT_MATCHES[box.effect ?? BOX_DEFAULTS.effect];
  const shows: Phrase = { text: chosen(box, 'nothingTyped').text, sets: 'nothingTyped' };
  return without === '' ? [shows] : [{ text: without }, shows];
}

function columnsShown(shown: number, count: number): string {
  return shown === count ? 'every column' : `${shown} of ${count} columns`;
}

/** Only in a sorted list does it matter what an edited row does. */
function editedRow(box: Box): Phrase[] {
  if ((box.sort ?? []).length === 0) return [];
  return [{ text: '; an edited row ' }, { text: chosen(box, 'edited').text, sets: 'edited' }];
}

/** Finds where a box looks. Every column is meant: those too that come later; all that there are now are named like others. */
function placesOf({ everyColumn, threaded = [] }: Box): string {
  return everyColumn ? 'every column' : threaded.length === 0 ? 'no column' : shortened(threaded);
}

/** Gives what is looked for, and where in the cell: a pattern says both by itself, and only words can be asked for one by one. */
function lookedFor(box: Box): Phrase[] {
  const reading = strandsOf(box)[0].reading ?? box.reading ?? BOX_DEFAULTS.reading;
  if (reading === 'pattern') return [{ text: ' for the pattern that is typed' }];
  const where: Phrase[] = [{ text: ', ' }, { text: chosen(box, 'where').text, sets: 'where' }];
  if (reading !== 'words') return [{ text: ` for the ${reading} typed, as one` }, ...where];
  return [{ text: ' for ' }, { text: chosen(box, 'need').text, sets: 'need' }, ...where];
}

/**
 * The sentence that states the whole definition.
 * @param columnCount how many columns the table has @param shown how many of them the box shows
 */
export function sentence(box: Box, columnCount: number, shown = box.columns?.length ?? columnCount): Phrase[] {
  const places = placesOf(box);
  return [
    { text: 'Looks in ' },
    { text: places, sets: 'threaded' },
    ...lookedFor(box),
    { text: ', ' },
    { text: chosen(box, 'care').text, sets: 'care' },
    { text: '. ' },
    { text: chosen(box, 'effect').text, sets: 'effect' },
    { text: '. With nothing typed it ' },
    ...nothingTyped(box),
    { text: '. Searches ' },
    { text: chosen(box, 'searches').text, sets: 'searches' },
    { text: ', shows ' },
    { text: columnsShown(shown, columnCount), sets: 'columns' },
    ...editedRow(box),
    { text: '.' },
  ];
}

/** The sentence in short, as the shelf has it: where it looks, and what it does. */
export function shortSentence(box: Box): string {
  return `Looks in ${placesOf(box)}. ${chosen(box, 'effect').text}.`;
}

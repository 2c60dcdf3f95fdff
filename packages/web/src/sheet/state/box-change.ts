import { dequal } from 'dequal/lite';
import { BOX_DEFAULTS, type Box, type Column, type WireChange } from '@usual-needle/contract';
import { shownText } from '@usual-needle/engine';
import { plain, strandsOf, withFirstText, withStrand } from '../../common/question';
import { counted } from '../../services/numbers';

/** A part of a box as it counts: what is not set does as the defaults do, and an empty list asks nothing. */
function partOf(box: Box, key: keyof Box): unknown {
  const value = box[key] ?? BOX_DEFAULTS[key as keyof typeof BOX_DEFAULTS];
  return (Array.isArray(value) && value.length === 0) || (key === 'wording' && Object.keys(value ?? {}).length === 0)
    ? undefined
    : value;
}

/** True if two parts of a box say the same; the order of names does not count, which a database may change. */
export function same(a: unknown, b: unknown): boolean {
  return a === b || dequal(plain(a), plain(b));
}

/** True if two boxes are defined differently. What is typed into the first strand, and a flip, are not the definition. */
export function differs(a: Box, b: Box): boolean {
  const definition = (box: Box): Box => ({ ...withFirstText(box, ''), flip: undefined, table: undefined });
  const [one, other] = [definition(a), definition(b)];
  const keys = new Set([...Object.keys(one), ...Object.keys(other)]) as Set<keyof Box>;
  // Asked at each keystroke, which leaves most of the parts as they are.
  return [...keys].some((key) => one[key] !== other[key] && !same(partOf(one, key), partOf(other, key)));
}

/** A box once a remedy is done: the same change that the engine counted the rows of. */
export function changedBox(box: Box, change: WireChange): Box {
  const [before, done] = [strandsOf(box), made(box, change)];
  return strandsOf(done).reduce(
    (one, { text }, i) =>
      text === before[i]?.text ? one : withStrand(one, i, (strand) => ({ ...strand, text: strand.text.trim() })),
    done,
  );
}

function made(box: Box, change: WireChange): Box {
  switch (change.type) {
    case 'replace': {
      const { strand, start, end, text } = change;
      return withStrand(box, strand, (one) => ({
        ...one,
        text: one.text.slice(0, start) + text + one.text.slice(end),
      }));
    }
    case 'thread':
      return { ...box, threaded: [...new Set([...(box.threaded ?? []), ...change.columns])] };
    case 'open':
      return { ...box, pickers: emptied(box, change.picker) };
    case 'need any word':
      return { ...box, need: 'any word' };
    case 'ignore case':
      return { ...box, case: 'ignore' };
    case 'ignore accents':
      return { ...box, accents: 'ignore' };
    case 'match anywhere':
      return { ...box, where: 'anywhere' };
    case 'read as words':
      return withStrand(box, change.strand, (one) => ({ ...one, reading: 'words' }));
    case 'read as plain text':
      return withStrand(box, change.strand, (one) => ({ ...one, reading: 'plain text' }));
    case 'remove strand':
      return { ...box, strands: strandsOf(box).filter((_, i) => i !== change.strand) };
    case 'several':
      return inOrder(change.of).reduce(made, box);
  }
}

/** Orders changes from the end of each text to its start, and strands removed last, from the last one on, so that places stay true. */
function inOrder(changes: readonly WireChange[]): WireChange[] {
  const removals = changes.filter((change) => change.type === 'remove strand');
  const others = changes.filter((change) => change.type !== 'remove strand');
  const start = (change: WireChange): number => (change.type === 'replace' ? change.start : -1);
  return [
    ...others.sort((a, b) => start(b) - start(a)),
    ...removals.sort((a, b) => ('strand' in b ? b.strand : 0) - ('strand' in a ? a.strand : 0)),
  ];
}

export type BoxPicker = NonNullable<Box['pickers']>[number];

/** The picker stays beside the box, blank. */
function emptied(box: Box, at: number): BoxPicker[] {
  return (box.pickers ?? []).map((picker, i) => (i === at ? blankPicker(picker) : picker));
}

/** A blank picker of the sort that suits a column. */
export function newPicker({ name: column, kind }: Pick<Column, 'name' | 'kind'>): BoxPicker {
  if (kind === 'number') return { column, numbers: { from: null, to: null } };
  if (kind === 'date') return { column, days: { from: '', to: '' } };
  if (kind === 'yes/no') return { column, answer: 'either' };
  return { column, values: [] };
}

export function blankPicker(picker: BoxPicker): BoxPicker {
  if ('values' in picker) return { ...picker, values: [] };
  if ('days' in picker) return { ...picker, days: { from: '', to: '' } };
  if ('numbers' in picker) return { ...picker, numbers: { from: null, to: null } };
  if ('answer' in picker) return { ...picker, answer: 'either' };
  if ('unfit' in picker) return { column: picker.column, values: [] };
  return { ...picker, letters: [] };
}

const FULL_DAY = /^\d{4}-\d\d-\d\d$/;

/** Tells what a picker asks, as words; empty if it is blank. @param column given, days are told as its cells show them */
export function pickerWords(picker: BoxPicker, column?: Column): string {
  const day = (iso: string): string => (column && FULL_DAY.test(iso) ? shownText(iso, column) : iso);
  if ('values' in picker) return picker.values.map((value) => (value === '' ? 'blank' : value)).join(', ');
  if ('days' in picker) return between(day(picker.days.from), day(picker.days.to));
  if ('numbers' in picker) return between(numberWords(picker.numbers.from), numberWords(picker.numbers.to));
  if ('answer' in picker) return picker.answer === 'either' ? '' : picker.answer;
  if ('unfit' in picker) return 'cells that do not fit';
  if (picker.letters.length === 0) return '';
  return `${picker.position === 'contains' ? 'contains' : 'starts with'} ${picker.letters.join(' ').toUpperCase()}`;
}

function numberWords(number: number | null): string {
  return number === null ? '' : counted(number);
}

function between(from: string, to: string): string {
  if (from === '' && to === '') return '';
  if (from === to) return from;
  if (from === '') return `up to ${to}`;
  return to === '' ? `from ${from}` : `${from} to ${to}`;
}

/**
 * The lines of the crib: each tells one thing that can be typed into a strand, by an example that is made of values of the table at
 * hand, so that whoever reads it sees at once what it does here. Which lines there are follows from how the strand is read.
 */
import type { Reading } from '@usual-needle/contract';
import { type CribValues, termOf } from './crib-values';

export interface CribLine {
  /** The text that a click types. */
  readonly text: string;
  /** The words on what it finds. */
  readonly says: string;
}

export interface CribGroup {
  readonly name: string;
  readonly lines: readonly CribLine[];
}

/** A word as somebody may misspell it: two letters in its middle change places. */
function misspelt(word: string): string {
  const at = Math.max(1, (word.length >> 1) - 1);
  return word.slice(0, at) + word[at + 1] + word[at] + word.slice(at + 2);
}

/** Patterns to begin with; `bare` puts one as the reading wants it. */
function patternLines(values: CribValues, bare: (pattern: string) => string): CribLine[] {
  const lines: CribLine[] = [];
  const add = (pattern: string, says: string): void => void lines.push({ text: bare(pattern), says });
  if (values.first) add(`^${values.first}`, `the cell begins with “${values.first}”`);
  if (values.last) add(`${values.last}$`, `the cell ends with “${values.last}”`);
  if (values.words) {
    const [first, second] = values.words;
    if (values.other) add(`${first}|${values.other}`, 'either of the two');
    add(`${first}.*${second}`, 'the one, and later in the same cell the other');
  }
  add('\\d{3}$', 'the cell ends with three digits');
  return lines;
}

function wordLines({ words, other }: CribValues): CribLine[] {
  const lines: CribLine[] = [];
  if (words) {
    const [first, second] = words;
    lines.push(
      { text: first.slice(0, 4), says: 'part of a word, in any column searched' },
      { text: `${second} ${first}`, says: 'both, in any order and any columns' },
      { text: `"${first} ${second}"`, says: 'exactly so, side by side in one cell' },
      ...(other ? [{ text: `${first} | ${other}`, says: 'either of the two' }] : []),
      { text: `${first} -${second}`, says: 'the first without the second' },
      { text: `${first.slice(0, 2)}*${first.slice(-1)}`, says: '* is any run of letters' },
      { text: `${first.slice(0, 1)}?${first.slice(2)}`, says: '? is exactly one letter' },
      { text: `~${misspelt(first)}`, says: 'near spellings, too' },
    );
  }
  return lines;
}

function columnLines({ words, choice, number, date, partly }: CribValues): CribLine[] {
  const lines: CribLine[] = [];
  if (choice) {
    lines.push(
      { text: `${choice.scope}:${termOf(choice.cell)}`, says: 'in this column only' },
      { text: `${choice.scope}:=${termOf(choice.cell)}`, says: 'the whole cell is just that' },
    );
    if (words)
      lines.push({ text: `${choice.scope}:${termOf(choice.cell)} ${words[0]}`, says: 'there, and a word anywhere' });
  }
  if (number) lines.push({ text: `${number.scope}>=${termOf(number.cell)}`, says: 'that much, or more' });
  if (date)
    lines.push(
      { text: `${date.scope}:${termOf(date.cell)}`, says: 'on that day, written as the cells write it' },
      { text: `${date.scope}>=${termOf(date.cell)}`, says: 'on that day, or later' },
    );
  if (partly) lines.push({ text: `${partly}:<blank>`, says: 'nothing is filled in there' });
  return lines;
}

/** The lines for a reading, in groups; groups without lines are left out. */
export function cribGroups(values: CribValues, reading: Reading): CribGroup[] {
  const [first, second] = values.words ?? ['umbrella', 'stand'];
  const groups: Record<Reading, CribGroup[]> = {
    words: [
      { name: 'Words', lines: wordLines(values) },
      { name: 'In one column', lines: columnLines(values) },
      { name: 'Patterns, between slashes', lines: patternLines(values, (pattern) => `/${pattern}/`) },
    ],
    'plain text': [
      {
        name: 'Plain text',
        lines: [{ text: `${first} ${second}`, says: 'just that, side by side: no sign means anything' }],
      },
    ],
    wildcards: [
      {
        name: 'Wildcards',
        lines: [
          { text: `${first.slice(0, 2)}*${first.slice(-1)}`, says: '* is any run of letters, also none' },
          { text: `${first.slice(0, 1)}?${first.slice(2)}`, says: '? is exactly one letter' },
          { text: `${first}*${second}`, says: 'the one, and later in the same cell the other' },
        ],
      },
    ],
    pattern: [{ name: 'Patterns', lines: patternLines(values, (pattern) => pattern) }],
  };
  return groups[reading].filter(({ lines }) => lines.length > 0);
}

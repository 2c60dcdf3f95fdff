import type { Box } from '@usual-needle/contract';

/** One phrase of the sentence. Underlined ones are what a builder sets. */
export interface Phrase {
  readonly text: string;
  readonly set: boolean;
}

/** `A`, `A and B`, `A, B and C`. */
export function listed(names: readonly string[]): string {
  return names.length < 2 ? names.join('') : `${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`;
}

const EFFECTS = {
  'show only matches': 'Shows only matching rows',
  'mark in place': 'Marks matches in place',
  'leave matches out': 'Leaves matching rows out',
} as const;

function care(box: Box): string {
  const { case: letters = 'ignore', accents = 'ignore' } = box;
  if (letters === accents) return letters === 'ignore' ? 'ignoring case and accents' : 'minding case and accents';
  return letters === 'ignore' ? 'ignoring case, minding accents' : 'minding case, ignoring accents';
}

function nothingTyped(box: Box): string {
  const { effect = 'show only matches', nothingTyped: shows = 'every row' } = box;
  if (effect === 'mark in place') return 'marks nothing';
  if (effect === 'leave matches out') return 'leaves nothing out';
  return shows === 'every row' ? 'shows every row' : 'shows no row';
}

/**
 * The sentence that states the whole definition.
 * @param columnCount how many columns the table has
 */
export function sentence(box: Box, columnCount: number): Phrase[] {
  const threaded = box.threaded ?? [];
  const set = (text: string): Phrase => ({ text, set: true });
  const say = (text: string): Phrase => ({ text, set: false });
  const where = box.where ?? 'anywhere';
  const places =
    threaded.length === 0 ? 'no column' : threaded.length === columnCount ? 'every column' : listed(threaded);
  return [
    say('Looks in '),
    set(places),
    say(' for '),
    set(box.need ?? 'every word'),
    say(', '),
    set(
      where === 'anywhere'
        ? 'anywhere in the cell'
        : where === 'whole word' || where === 'whole cell'
          ? `as a ${where}`
          : `at the ${where}`,
    ),
    say(', '),
    set(care(box)),
    say('. '),
    set(EFFECTS[box.effect ?? 'show only matches']),
    say('. With nothing typed it '),
    set(nothingTyped(box)),
    say('.'),
  ];
}

/** The three tables of the demo, made from a seed: the same rows every time, and any number of found items. */
import { LINES, STOPS } from './places.js';
import { Random } from './random.js';
import { FIRST_NAMES, NOTES, SECOND_LINES, STATUSES, SURNAMES, THINGS, type Thing } from './things.js';

export interface DemoTable {
  readonly name: string;
  readonly columns: readonly string[];
  readonly rows: Iterable<readonly string[]>;
}

const FIRST_DAY = Date.UTC(2026, 0, 5) / 86_400_000;
const LAST_DAY = Date.UTC(2026, 10, 18) / 86_400_000;

function isoDate(day: number): string {
  return new Date(day * 86_400_000).toISOString().slice(0, 10);
}

function shortDay(day: number): string {
  return new Date(day * 86_400_000).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', timeZone: 'UTC' });
}

/** Fills the {slots} of a template. */
function fill(template: string, random: Random, day: number): string {
  return template.replace(/\{(\w+?)(\d?)\}/g, (whole, slot: string, size: string) => {
    switch (slot) {
      case 'd':
        return random.digits(Number(size));
      case 'L':
        return random.letters(Number(size));
      case 'n':
        return String(size ? 100 + random.below(220) : 1 + random.below(40));
      case 'ini':
        return Array.from({ length: 2 + random.below(2) }, () => `${random.letters(1)}.`).join(' ');
      case 'sur':
        return random.pick(SURNAMES);
      case 'first':
        return random.pick(FIRST_NAMES);
      case 'name':
        return `${random.pick(FIRST_NAMES)} ${random.pick(SURNAMES)}`;
      case 'stop':
        return random.pick(STOPS).name;
      case 'day':
        return shortDay(day + 1 + random.below(9));
      default:
        return whole;
    }
  });
}

/** A slip of the pen in one longer word: letters swapped, dropped or doubled. */
function misspell(text: string, random: Random): string {
  const words = text.split(' ');
  const long = words.map((word, i) => (/^[a-z]{5,}$/i.test(word) ? i : -1)).filter((i) => i >= 0);
  if (long.length === 0) return text;
  const at = random.pick(long);
  const word = words[at];
  const i = 1 + random.below(word.length - 3);
  const slip = random.below(3);
  if (slip === 0) words[at] = word.slice(0, i) + word[i + 1] + word[i] + word.slice(i + 2);
  else if (slip === 1) words[at] = word.slice(0, i) + word.slice(i + 1);
  else words[at] = word.slice(0, i) + word[i] + word.slice(i);
  return words.join(' ');
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

const WEIGHTED: readonly Thing[] = THINGS.flatMap((thing) => Array.from({ length: thing.weight }, () => thing));

function description(thing: Thing, random: Random, day: number): string {
  const before = random.pick(thing.befores);
  const noun = random.pick(thing.nouns);
  const parts = [capital(before ? `${before} ${noun}` : noun)];
  if (random.chance(0.85)) parts.push(fill(random.pick(thing.details), random, day));
  if (random.chance(0.18)) parts.push(fill(random.pick(thing.details), random, day));
  let text = parts.join(', ');
  if (random.chance(0.05)) text = text.replace(', ', ' with ');
  if (random.chance(0.03)) text = text.toUpperCase();
  if (random.chance(0.035)) text = misspell(text, random);
  return text;
}

function note(random: Random, day: number): string {
  if (random.chance(0.24)) return '';
  let text = fill(random.pick(NOTES), random, day);
  if (random.chance(0.12)) text += `; ${fill(random.pick(NOTES), random, day)}`;
  if (random.chance(0.06)) text += `\n${fill(random.pick(SECOND_LINES), random, day)}`;
  if (random.chance(0.02)) text = misspell(text, random);
  return random.chance(0.01) ? `  ${text} ` : text;
}

const FOUND_COLUMNS = [
  'Item no.',
  'Description',
  'Category',
  'Colour',
  'Marks',
  'Found on',
  'Found at',
  'Line',
  'Shelf',
  'Status',
  'Declared value',
  'Finder’s note',
];

/** How many found items the demo has, as committed. */
export const DEMO_ROWS = 4_120;

/** @param count how many rows; dates spread over the year whatever the number */
export function foundItems(count = DEMO_ROWS, seed = 20_261_118): DemoTable {
  function* rows(): Generator<string[]> {
    const random = new Random(seed);
    let number = 36_000;
    let before: string[] | undefined;
    for (let i = 0; i < count; i++) {
      number += 1 + (random.chance(0.1) ? random.below(3) : 0);
      const day = FIRST_DAY + Math.floor(((LAST_DAY - FIRST_DAY + 1) * i) / count);
      const item = `LP-${String(number).padStart(5, '0')}`;
      // Now and then the same thing is written down twice, by two people on one shift.
      if (before && random.chance(0.015)) {
        const twin = [...before];
        twin[0] = item;
        twin[1] = random.chance(0.5) ? misspell(twin[1], random) : twin[1].toLowerCase();
        twin[11] = random.chance(0.5) ? 'same as the one before?' : '';
        yield twin;
        before = undefined;
        continue;
      }
      const thing = random.pick(WEIGHTED);
      const age = LAST_DAY - day;
      const status = random.chance(age > 90 ? 0.06 : 0.55)
        ? 'Held'
        : age > 90
          ? random.pickEarly(STATUSES.slice(1))
          : 'Returned';
      const [low, high] = thing.value;
      const amount = low + (high - low) * random.next() ** 3;
      const value = random.chance(0.45) ? '' : random.chance(0.3) ? amount.toFixed(2) : String(Math.round(amount));
      const row = [
        item,
        description(thing, random, day),
        thing.category,
        random.chance(0.06) ? '' : random.pickEarly(thing.colours),
        random.chance(0.55) ? '' : fill(random.pick(thing.marks), random, day),
        isoDate(day),
        random.pickEarly(STOPS).name,
        random.pickEarly(LINES),
        `${thing.shelf}${1 + random.below(9)}`,
        status,
        value,
        note(random, day),
      ];
      before = row;
      yield row;
    }
  }
  return { name: 'Found items', columns: FOUND_COLUMNS, rows: { [Symbol.iterator]: rows } };
}

export function stops(): DemoTable {
  const rows = STOPS.map((stop) => [stop.code, stop.name, stop.town, stop.zone, stop.depot]);
  return { name: 'Stops', columns: ['Code', 'Name', 'Town', 'Zone', 'Depot'], rows };
}

const SAYINGS = [
  'I left my {what} on the {line}, near the back',
  'lost my {what} between {stop} and {stop}',
  '{what}, it was my grandmother’s',
  'a {what}. {colour}. Please ring me',
  '{what} – {colour} – left on a bench at {stop}',
  'my son’s {what}, he is very upset',
  'somebody took my {what} by mistake and left theirs',
  '{what} with my name in it ({name})',
];

export function claims(found: readonly (readonly string[])[], count = 600, seed = 600): DemoTable {
  const random = new Random(seed);
  const rows: string[][] = [];
  for (let i = 0; i < count; i++) {
    const day = FIRST_DAY + Math.floor(((LAST_DAY - FIRST_DAY + 1) * i) / count);
    const item = found[Math.min(found.length - 1, Math.floor((i * found.length) / count) + random.below(8))];
    const matched = random.chance(0.4);
    const thing = THINGS.find(({ category }) => category === item[2])!;
    const line = random.pickEarly(LINES);
    let says = random
      .pick(SAYINGS)
      .replace('{what}', random.pick(thing.nouns))
      .replace('{line}', line)
      .replace('{colour}', item[3] || 'can’t remember the colour');
    says = capital(fill(says, random, day));
    if (random.chance(0.05)) says = misspell(says, random);
    rows.push([
      `C-${String(7_000 + i)}`,
      isoDate(Math.max(FIRST_DAY, day - random.below(4))),
      says,
      random.chance(0.1) ? '' : line,
      matched ? 'Matched' : random.pickEarly(['Open', 'Closed', 'Withdrawn']),
      matched ? item[0] : '',
    ]);
  }
  const columns = ['Claim no.', 'Lost on', 'What the claimant says', 'Line', 'Status', 'Matched item no.'];
  return { name: 'Claims', columns, rows };
}

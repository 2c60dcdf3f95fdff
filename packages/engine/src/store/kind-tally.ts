/**
 * The kind of a column, found from all of its cells while they pass by: what is kept is how many of them each way of reading
 * fits, never the cells.
 */
import {
  isBlank,
  numberDigits,
  ownText,
  readDate,
  saysNoValue,
  unitOf,
  withWholeYear,
  type DateOrder,
  type DecimalSign,
} from '../text/index.js';
import type { Kind } from './kinds.js';

/** A problem found while looking at a column: which row (from 1), and what. */
interface KindProblem {
  readonly row: number;
  readonly message: string;
}

export interface KindGuess {
  readonly kind: Kind;
  readonly dateOrder?: DateOrder;
  readonly decimal?: DecimalSign;
  readonly problems: readonly KindProblem[];
  /** Whether the column would hold dates if it were known which century its years of two digits are of. */
  readonly lacksCentury?: boolean;
  /** Whether it would hold numbers if they were not of several currencies, or parts of a hundred among others. */
  readonly mixesUnits?: boolean;
}

/** A year in a century that has them all, to see whether a date with two digits of it could be one; a leap year. */
const SOME_YEAR = 1904;

/** The ways in which cells of a yes/no column say the same, in lower case. */
export const ANSWERS = { yes: ['yes', 'y', 'true'], no: ['no', 'n', 'false'] } as const;

const YES_NO = new Set<string>([...ANSWERS.yes, ...ANSWERS.no]);

/** Ways to read a cell; that of a kind with its setting. */
export const WAYS = ['yes/no', 'point', 'comma', 'year first', 'day first', 'month first'] as const;
export type Way = (typeof WAYS)[number];

/** A choice has at most so many values, each this long at most, and stands for five rows on average. */
const CHOICES = 40;
const CHOICE_LENGTH = 40;
const ROWS_A_CHOICE = 5;

type DateWay = Extract<Way, DateOrder>;
const DATE_WAYS: readonly DateWay[] = ['day first', 'month first'];

/** How a cell can be read. */
interface CellReading {
  readonly ways: readonly Way[];
  /** Ways in which it could be read if the century of its year were known. */
  readonly short: readonly Way[];
  /** Whether the cell says that there is no value. */
  readonly noValue: boolean;
  /** The currency or per cent sign of a number; empty without one. */
  readonly unit: string;
}

const NOT_READ: CellReading = { ways: [], short: [], noValue: false, unit: '' };

/** Units that are told apart: more than one makes numbers that are not to be compared. */
const UNITS = 8;

/** A number that could as well be a code: leading zero, plus sign, or more than 15 of them. */
function couldBeCode(text: string): boolean {
  return /^[-+]?0\d/.test(text) || text.startsWith('+') || text.replace(/\D/g, '').length > 15;
}

/** The way to read a column of that kind; undefined for a kind that takes every cell. */
export function wayOf(column: {
  readonly kind: Kind;
  readonly dateOrder?: DateOrder;
  readonly decimal?: DecimalSign;
}): Way | undefined {
  if (column.kind === 'number') return column.decimal ?? 'point';
  if (column.kind === 'date') return column.dateOrder ?? 'year first';
  return column.kind === 'yes/no' ? 'yes/no' : undefined;
}

/** True if a cell can be read in that way. Blank cells can in every way. */
export function fits(cell: string, way: Way): boolean {
  if (isBlank(cell)) return true;
  if (way === 'yes/no') return YES_NO.has(cell.trim().toLowerCase());
  if (way === 'point' || way === 'comma') return numberDigits(cell, way) !== undefined;
  return readDate(cell, way) !== undefined;
}

/** How numbers and dates begin: most texts do not, and are not looked at any more. */
const NUMBERLIKE = /^[-+\u2212]?(?:\p{Sc}[ \u00a0\u202f]?)?[\d.,]/u;
const DATELIKE = /^(?:\d{1,4}[-/. ]|[A-Za-z]{3,9}\.? \d)/;

export class KindTally {
  /** Cells seen, and those of them that are not blank. */
  private rows = 0;
  filled = 0;
  private readonly fitting = new Map<Way, number>(WAYS.map((way) => [way, 0]));
  /** Cells that could be read in that way if the century of their years were known. */
  private readonly short = new Map<Way, number>(WAYS.map((way) => [way, 0]));
  /** Cells that say that there is no value. */
  noValues = 0;
  private codes = 0;
  /** Row, from 1, of the first date in numbers that only an order tells, and its text. */
  private open: { readonly row: number; readonly text: string } | undefined;
  /** Currency and per cent signs that numbers are written with, and how many are. */
  readonly units = new Map<string, number>();
  private choices: Set<string> | undefined = new Set();
  /** The last cell, and the ways it can be read in: columns repeat themselves. */
  private last = '';
  private lastRead: CellReading = NOT_READ;

  /** @returns how a cell can be read; nothing of a blank one, which does not count */
  add(cell: string): CellReading | undefined {
    this.rows++;
    if (isBlank(cell)) return undefined;
    this.filled++;
    if (cell !== this.last) {
      this.lastRead = this.read(cell);
      this.last = cell;
      this.addChoice(cell);
    }
    const { ways, short, noValue, unit } = this.lastRead;
    if (noValue) this.noValues++;
    for (const way of ways) this.fitting.set(way, this.fitting.get(way)! + 1);
    for (const way of short) this.short.set(way, this.short.get(way)! + 1);
    if (unit !== '' && (this.units.has(unit) || this.units.size < UNITS))
      this.units.set(unit, (this.units.get(unit) ?? 0) + 1);
    return this.lastRead;
  }

  private read(cell: string): CellReading {
    if (saysNoValue(cell)) return { ...NOT_READ, noValue: true };
    const ways = this.waysOf(cell);
    const whole = ways.length === 0 && cell.length < 40 ? withWholeYear(cell, SOME_YEAR) : undefined;
    const short = whole === undefined ? [] : DATE_WAYS.filter((way) => fits(whole, way));
    const numeric = ways.includes('point') || ways.includes('comma');
    return { ways, short, noValue: false, unit: numeric ? ownText(unitOf(cell)) : '' };
  }

  private waysOf(cell: string): readonly Way[] {
    if (!/\d/.test(cell)) return YES_NO.has(cell.trim().toLowerCase()) ? ['yes/no'] : [];
    // The longest of dates and numbers that can be read are shorter than that.
    if (cell.length > 100) return [];
    const text = cell.trim();
    const [number, date] = [NUMBERLIKE.test(text), DATELIKE.test(text)];
    if (!number && !date) return [];
    const ways = WAYS.filter((way) => (way === 'point' || way === 'comma' ? number : date) && fits(cell, way));
    if (ways.includes('point') || ways.includes('comma')) {
      if (couldBeCode(text)) this.codes++;
    }
    if (!this.open && ways.includes('day first') && ways.includes('month first') && !ways.includes('year first'))
      this.open = { row: this.rows, text: ownText(text) };
    return ways;
  }

  private addChoice(cell: string): void {
    if (!this.choices) return;
    if (cell.length > CHOICE_LENGTH || cell.includes('\n')) this.choices = undefined;
    else if (!this.choices.has(cell) && this.choices.add(ownText(cell)).size > CHOICES) this.choices = undefined;
  }

  /** Cells that have a value: words for none are passed over where they are not most of what there is. */
  private get valued(): number {
    return this.noValues * 2 <= this.filled ? this.filled - this.noValues : this.filled;
  }

  /** Cells that cannot be read in that way. */
  misfits(way: Way): number {
    return this.valued - this.fitting.get(way)!;
  }

  /** The first date in numbers that could be day first as well as month first. */
  get openDate(): string | undefined {
    return this.open?.text;
  }

  /** True if no cell that may still come makes it anything but text. */
  get isText(): boolean {
    const rest = (way: Way): number => this.filled - this.noValues - this.fitting.get(way)! - this.short.get(way)!;
    return this.choices === undefined && WAYS.every((way) => rest(way) > 0);
  }

  /** Number of distinct values of a choice; undefined if there are too many for one. */
  get choiceCount(): number | undefined {
    return this.choices?.size;
  }

  /**
   * The kind that fits, carefully: what looks like a code stays text. `03/04/2026` alone cannot be told from 4 March or
   * 3 April: the column stays text and the problem says so. `1.250` alone has its point as the decimal sign.
   * @param tolerated part of the cells that may be unreadable; none, if not said
   */
  guess(tolerated = 0): KindGuess {
    if (this.filled === 0) return { kind: 'text', problems: [] };
    const most = this.valued * tolerated;
    const can = (way: Way): boolean => this.misfits(way) <= most;
    if (can('yes/no')) return { kind: 'yes/no', problems: [] };
    if (can('point') || can('comma')) {
      // Some amounts without a sign are of the same currency; of two currencies, or parts of a hundred, they are not to be compared.
      const isMixed = this.units.size > 1 || (this.units.has('%') && this.units.get('%')! < this.valued);
      if (this.codes > 0) return { kind: 'text', problems: [] };
      if (isMixed) return { kind: 'text', problems: [], mixesUnits: true };
      const byComma = this.misfits('comma') < this.misfits('point');
      return { kind: 'number', ...(byComma && { decimal: 'comma' }), problems: [] };
    }
    return this.guessDate(can) ?? this.guessShort(most) ?? { kind: this.isChoice ? 'choice' : 'text', problems: [] };
  }

  private guessDate(can: (way: Way) => boolean): KindGuess | undefined {
    if (can('year first')) return { kind: 'date', problems: [] };
    const [day, month] = [this.misfits('day first'), this.misfits('month first')];
    if (!can('day first') && !can('month first')) return undefined;
    if (day !== month) return { kind: 'date', dateOrder: day < month ? 'day first' : 'month first', problems: [] };
    const { row, text } = this.open!;
    const message = `${text} could be day first or month first; say which to read this column as dates`;
    return { kind: 'text', problems: [{ row, message }] };
  }

  /** Dates whose years have two digits stay text until it is said which century they are of. */
  private guessShort(most: number): KindGuess | undefined {
    const lacking = (way: Way): number => this.misfits(way) - this.short.get(way)!;
    const fitting = DATE_WAYS.filter((way) => this.short.get(way)! > 0 && lacking(way) <= most);
    if (fitting.length === 0) return undefined;
    const least = Math.min(...fitting.map(lacking));
    const [order, ...others] = fitting.filter((way) => lacking(way) === least);
    return {
      kind: 'text',
      ...(others.length === 0 && { dateOrder: order }),
      problems: [],
      lacksCentury: true,
    };
  }

  private get isChoice(): boolean {
    return this.choices !== undefined && this.filled >= this.choices.size * ROWS_A_CHOICE;
  }
}

/** The kind of a column by its cells; see `KindTally.guess`. */
export function guessKind(cells: readonly string[]): KindGuess {
  const tally = new KindTally();
  for (const cell of cells) tally.add(cell);
  return tally.guess();
}

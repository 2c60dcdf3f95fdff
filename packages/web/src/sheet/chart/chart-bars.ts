import type { Column, Offers } from '@usual-needle/contract';
import type { BoxPicker } from '../state/box-change';

/** Bars drawn at most; the rest of the values are one bar together. */
const MOST_BARS = 40;
const DAY_MS = 86_400_000;

/** A bar of the chart: rows that match, the rest, and the picker that narrows to both. */
export interface Bar {
  readonly label: string;
  readonly matches: number;
  readonly rest: number;
  /** Undefined for what is more than one value. */
  readonly picker: BoxPicker | undefined;
}

/**
 * The bars of a column.
 * @param matches what is offered under all that is asked @param all what is offered with nothing typed
 */
export function barsOf(column: Pick<Column, 'name' | 'kind'>, matches: Offers, all: Offers): Bar[] {
  return all.range ? rangeBars(column, matches, all.range) : valueBars(column.name, matches, all);
}

function valueBars(column: string, matches: Offers, all: Offers): Bar[] {
  const matching = new Map(matches.values.map(({ value, rows }) => [value, rows]));
  const bars = all.values
    .filter(({ rows }) => rows > 0)
    .map(({ value, rows }): Bar => {
      const hits = matching.get(value) ?? 0;
      return { label: value || 'blank', matches: hits, rest: rows - hits, picker: { column, values: [value] } };
    });
  if (bars.length <= MOST_BARS) return bars;
  const largest = [...bars].sort((a, b) => b.matches - a.matches || b.rest - a.rest).slice(0, MOST_BARS - 1);
  const kept = new Set(largest);
  const others = bars.filter((bar) => !kept.has(bar));
  return [
    ...bars.filter((bar) => kept.has(bar)),
    {
      label: `${others.length} others`,
      matches: others.reduce((sum, bar) => sum + bar.matches, 0),
      rest: others.reduce((sum, bar) => sum + bar.rest, 0),
      picker: undefined,
    },
  ];
}

function rangeBars(
  { name: column, kind }: Pick<Column, 'name' | 'kind'>,
  matches: Offers,
  range: NonNullable<Offers['range']>,
): Bar[] {
  const { least, most, bins } = range;
  const width = (most - least) / bins.length;
  const whole = Number.isInteger(least) && Number.isInteger(most) && width >= 1;
  return bins.map((rows, i): Bar => {
    const last = i === bins.length - 1;
    const [low, high] = [least + i * width, last ? most : least + (i + 1) * width];
    // Of whole numbers and days, a bar ends before the next one begins.
    const from = whole ? Math.ceil(low) : low;
    const to = whole && !last ? Math.ceil(high) - 1 : high;
    const hits = matches.range?.bins[i] ?? 0;
    const picker: BoxPicker =
      kind === 'date' ? { column, days: { from: isoDay(from), to: isoDay(to) } } : { column, numbers: { from, to } };
    const label = kind === 'date' ? isoDay(from) : String(Math.round(from * 100) / 100);
    return { label, matches: hits, rest: rows - hits, picker };
  });
}

function isoDay(day: number): string {
  return new Date(day * DAY_MS).toISOString().slice(0, 10);
}

import type { Rhythm, RunCounts, Source, SourceFrom, SourceTold } from '@usual-needle/contract';
import { counted, plural } from '../services/numbers';

/** The parts of a source that its sentence sets. */
export type SourcePart = 'from' | 'rhythm' | 'key' | 'gone' | 'most';

export interface SourcePhrase {
  readonly text: string;
  readonly sets?: SourcePart;
}

export const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;
/** Hours that are the night's. */
const NIGHT = { from: 22, to: 6 };

/** The time zone of who sits here. */
export function zoneHere(): string {
  return Intl.DateTimeFormat().resolvedOptions().timeZone;
}

function isAtNight(at: string): boolean {
  const hour = Number(at.slice(0, 2));
  return hour >= NIGHT.from || hour < NIGHT.to;
}

export function rhythmWords(rhythm: Rhythm): string {
  switch (rhythm.every) {
    case 'change':
      return 'when it changes';
    case 'minutes':
      return rhythm.number === 1 ? 'every minute' : `every ${rhythm.number} minutes`;
    case 'hours':
      return rhythm.number === 1 ? 'every hour' : `every ${rhythm.number} hours`;
    case 'day':
      return `every ${isAtNight(rhythm.at) ? 'night' : 'day'} at ${rhythm.at}${zoneWords(rhythm.zone)}`;
    case 'week':
      return `every ${DAYS[rhythm.day - 1]} at ${rhythm.at}${zoneWords(rhythm.zone)}`;
  }
}

function zoneWords(zone: string): string {
  return zone === zoneHere() ? '' : ` (${zone})`;
}

/** An address without what everybody knows of it. */
export function fromWords(from: SourceFrom): string {
  if ('address' in from) return from.address.replace(/^https?:\/\//i, '');
  return 'file' in from ? from.file : `the ${from.connection} database`;
}

/** The sentence of a source; phrases that set something open their choices. */
export function sourceSentence({ from, rhythm, key, gone, most }: Source): readonly SourcePhrase[] {
  const where: SourcePhrase[] =
    'query' in from
      ? [{ text: ' by ' }, { text: 'a query', sets: 'from' }, { text: ` on ${fromWords(from)}` }]
      : [
          { text: ' from ' },
          { text: fromWords(from), sets: 'from' },
          { text: 'file' in from ? ' in the in-tray' : '' },
        ];
  return [
    { text: 'Refreshes itself ' },
    { text: rhythmWords(rhythm), sets: 'rhythm' },
    ...where,
    { text: ', matching rows by ' },
    { text: key.length === 0 ? 'their places' : key.join(' and '), sets: 'key' },
    { text: '; rows that are gone ' },
    { text: gone === 'keep' ? 'stay' : 'go', sets: 'gone' },
    { text: '; ' },
    ...(most === null
      ? [{ text: 'however many would change', sets: 'most' as const }]
      : [
          { text: 'waits for me', sets: 'most' as const },
          { text: ' if more than ' },
          { text: `${most} %`, sets: 'most' as const },
          { text: ' would change' },
        ]),
    { text: '.' },
  ];
}

export function countsWords({ added, changed, gone }: RunCounts): string {
  const parts = [
    ...(added > 0 ? [`${counted(added)} added`] : []),
    ...(changed > 0 ? [`${counted(changed)} changed`] : []),
    ...(gone > 0 ? [`${counted(gone)} gone`] : []),
  ];
  return parts.length === 0 ? 'nothing new' : parts.join(', ');
}

/** Says what became of a source the last time. */
export function lastWords({ last, failures }: SourceTold): string {
  if (!last) return 'It has not run yet.';
  const missed =
    last.missed > 0 ? ` It stood for ${plural(last.missed, 'more run')} that the server was not there for.` : '';
  if (last.outcome === 'failed')
    return `${failures === 1 ? 'The last run failed' : `The last ${failures} runs failed`}: ${last.why ?? ''}. It is tried again.${missed}`;
  if (last.outcome === 'left') return 'What the last run brought was left.';
  if (last.outcome === 'waits') return '';
  return `Last time ${countsWords(last.counts ?? { added: 0, changed: 0, gone: 0 })}.${missed}`;
}

export function streakWords({ inARow, source: { rhythm } }: SourceTold): string {
  const one =
    rhythm.every === 'day' ? (isAtNight(rhythm.at) ? 'night' : 'day') : rhythm.every === 'week' ? 'week' : 'run';
  return plural(inARow, one);
}

const DAY_TIME = new Intl.DateTimeFormat('en-GB', {
  day: 'numeric',
  month: 'short',
  hour: '2-digit',
  minute: '2-digit',
});
const DAY = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short' });

export function momentWords(moment: string): string {
  return DAY_TIME.format(new Date(moment));
}

/** The words of every sheet whose rows are older than they should be. */
export function lateWords(lateSince: string): string {
  return `These rows are from ${DAY.format(new Date(lateSince))}: the table could not refresh itself since.`;
}

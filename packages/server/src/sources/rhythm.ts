/** When a source is asked: the next moment of its rhythm, in the time zone of who said it. */
import type { Rhythm, Source } from '@usual-needle/contract';
import { Cron } from 'croner';

const MINUTE_MS = 60_000;
/** A server that tells nobody when something is new is asked so often. */
export const LOOK_MS = 5 * MINUTE_MS;
/** Moments that are counted as missed; beyond them it is said that there were more. */
const MISSED = 10_000;

/** A rhythm that no clock has. */
export class NoRhythm extends Error {}

/** A day's or week's rhythm as a pattern of cron. A moment that a night leaves out comes when clocks have jumped, one that it has twice comes once. */
function cronOf({ at, ...rhythm }: Extract<Rhythm, { every: 'day' | 'week' }>): Cron {
  const [hour, minute] = at.split(':').map(Number);
  const day = rhythm.every === 'week' ? rhythm.day % 7 : '*';
  return new Cron(`0 ${minute} ${hour} * * ${day}`, { timezone: rhythm.zone, paused: true });
}

function isZone(timeZone: string): boolean {
  try {
    return new Intl.DateTimeFormat('en', { timeZone }).resolvedOptions().timeZone !== '';
  } catch {
    return false;
  }
}

/** Checks that a rhythm can be kept. @throws NoRhythm */
export function checkRhythm(rhythm: Rhythm): void {
  nextOf(rhythm, new Date(), new Date());
}

/**
 * The next moment after one.
 * @param base the moment that minutes and hours are counted from
 * @throws NoRhythm
 */
export function nextOf(rhythm: Rhythm, after: Date, base: Date): Date {
  switch (rhythm.every) {
    case 'change':
      return new Date(after.getTime() + LOOK_MS);
    case 'minutes':
    case 'hours': {
      const step = stepOf(rhythm);
      return new Date(base.getTime() + (stepsIn(after, base, step) + 1) * step);
    }
    case 'day':
    case 'week': {
      if (!isZone(rhythm.zone)) throw new NoRhythm(`“${rhythm.zone}” is no time zone that is known here.`);
      const next = cronOf(rhythm).nextRun(after);
      if (!next) throw new NoRhythm('That time never comes.');
      return next;
    }
  }
}

/** Tells whether a source is run whenever a file is there, and at no moment of its own. */
export function isNoticed({ from, rhythm }: Source): boolean {
  return rhythm.every === 'change' && 'file' in from;
}

/** The next moment of a source's rhythm, see `nextOf`; undefined for one that is noticed. @throws NoRhythm */
export function nextFor(source: Source, after: Date, base: Date): Date | undefined {
  return isNoticed(source) ? undefined : nextOf(source.rhythm, after, base);
}

/** Counts the moments of a rhythm after the one that was due, and until now. */
export function missedOf(rhythm: Rhythm, due: Date, now: Date, base: Date): number {
  if (rhythm.every === 'change') return 0;
  if (rhythm.every === 'minutes' || rhythm.every === 'hours') {
    const step = stepOf(rhythm);
    return Math.max(0, stepsIn(now, base, step) - stepsIn(due, base, step));
  }
  let missed = 0;
  for (let at = nextOf(rhythm, due, base); at <= now && missed < MISSED; at = nextOf(rhythm, at, base)) missed++;
  return missed;
}

function stepsIn(moment: Date, base: Date, step: number): number {
  return Math.floor((moment.getTime() - base.getTime()) / step);
}

function stepOf({ every, number }: Extract<Rhythm, { number: number }>): number {
  return number * (every === 'minutes' ? MINUTE_MS : 60 * MINUTE_MS);
}

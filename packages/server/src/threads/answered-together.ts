/** Questions that are put together, at the thread's end: answered side by side, and fetched as they are (see `Together`). */
import { setImmediate } from 'node:timers/promises';
import { Gathering } from './gathering.js';
import type { Told } from './host-thread.js';
import type { Answered, Question } from './together.js';

/** Under way side by side: one that takes its time holds up none of the others. */
const SIDE_BY_SIDE = 4;
/** Whoever asks something else is let in after so long, in milliseconds. */
const STRETCH_MS = 8;

/** Those of one message. */
class Going {
  private some: [number, Told<string>][] = [];
  private fetching: ((some: [number, Told<string>][]) => void) | undefined;

  constructor(private left: number) {}

  get isFetched(): boolean {
    return this.left === 0;
  }

  put(some: readonly [number, Told<string>][]): void {
    this.some.push(...some);
    const { fetching } = this;
    this.fetching = undefined;
    fetching?.(this.taken());
  }

  /** @returns those that are answered and not fetched yet, once there are any */
  fetch(): Promise<[number, Told<string>][]> {
    return this.some.length > 0 ? Promise.resolve(this.taken()) : new Promise((done) => (this.fetching = done));
  }

  private taken(): [number, Told<string>][] {
    const { some } = this;
    this.some = [];
    this.left -= some.length;
    return some;
  }
}

export class AnsweredTogether {
  private readonly going = new Map<number, Going>();
  private next = 0;

  constructor(private readonly search: (question: Question) => Promise<Told<string>>) {}

  /** @returns those that are answered first */
  put(questions: readonly Question[]): Promise<Answered> {
    const number = this.next++;
    const going = new Going(questions.length);
    this.going.set(number, going);
    const gathering = new Gathering<[number, Told<string>]>(questions.length, (some) => going.put(some));
    let looked = performance.now();
    const each = questions.entries();
    const lane = async (): Promise<void> => {
      for (const [place, question] of each) {
        gathering.add([place, await this.search(question).catch(failed)]);
        if (performance.now() - looked < STRETCH_MS) continue;
        await setImmediate();
        looked = performance.now();
      }
    };
    for (let i = 0; i < SIDE_BY_SIDE; i++) void lane();
    return this.fetch(number);
  }

  /** @returns those that are answered since, once there are any */
  async fetch(number: number): Promise<Answered> {
    const going = this.going.get(number)!;
    const answered = await going.fetch();
    if (going.isFetched) this.going.delete(number);
    return { answered, rest: going.isFetched ? undefined : number };
  }
}

/** It fails by itself, and not the others with it. */
function failed(error: unknown): Told<string> {
  return { ok: false, why: 'failed', message: error instanceof Error ? (error.stack ?? error.message) : String(error) };
}

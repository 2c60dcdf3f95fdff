/** Questions that are put together, at the thread's end: answered side by side, and fetched as they are (see `Together`). */
import { setImmediate } from 'node:timers/promises';
import { Gathering } from './gathering.js';
import type { Bytes, Outcome } from '@usual-needle/host';
import { failed } from './thread-gone.js';
import type { Answered, TableQuestion } from './together.js';

/** The questions under way side by side: one that takes its time holds up none of the others. */
const SIDE_BY_SIDE = 4;
/** The time after which whoever asks something else is let in, in milliseconds. */
const STRETCH_MS = 8;
/** The time after which no more of them are begun, in milliseconds: others have their turn. */
const TURN_MS = 40;

type Place = readonly [number, Outcome<Bytes>];

/** The questions of one message. */
class Going {
  /** How many were begun, in their order; none is any more once it has ended. */
  begun = 0;
  private some: Place[] = [];
  private ended = false;
  private fetching: (() => void) | undefined;

  put(some: readonly Place[]): void {
    this.some.push(...some);
    if (this.some.length > 0) this.fetching?.();
  }

  end(): void {
    this.ended = true;
    this.fetching?.();
  }

  /** @returns those that are answered and not fetched yet, once there are any, and whether they are the last */
  async fetch(): Promise<{ readonly answered: readonly Place[]; readonly last: boolean }> {
    if (this.some.length === 0 && !this.ended) await new Promise<void>((done) => (this.fetching = done));
    this.fetching = undefined;
    const answered = this.some;
    this.some = [];
    return { answered, last: this.ended };
  }
}

export class AnsweredTogether {
  private readonly going = new Map<number, Going>();
  private next = 0;

  /** @param now milliseconds, of whatever clock */
  constructor(
    private readonly search: (question: TableQuestion) => Promise<Outcome<Bytes>>,
    private readonly now = () => performance.now(),
  ) {}

  /** @returns those that are answered first */
  put(questions: readonly TableQuestion[]): Promise<Answered> {
    const number = this.next++;
    const going = new Going();
    this.going.set(number, going);
    void this.answer(questions, going);
    return this.fetch(number);
  }

  /** @returns those that are answered since, once there are any */
  async fetch(number: number): Promise<Answered> {
    const going = this.going.get(number)!;
    const { answered, last } = await going.fetch();
    if (last) this.going.delete(number);
    return { answered, rest: last ? undefined : number, begun: going.begun };
  }

  private async answer(questions: readonly TableQuestion[], going: Going): Promise<void> {
    const began = this.now();
    let looked = began;
    const gathering = new Gathering<Place>((some) => going.put(some));
    const lane = async (): Promise<void> => {
      while (going.begun < questions.length && this.now() - began < TURN_MS) {
        const place = going.begun++;
        gathering.add([place, await this.search(questions[place]).catch(failed)]);
        if (this.now() - looked < STRETCH_MS) continue;
        await setImmediate();
        looked = this.now();
      }
    };
    await Promise.all(Array.from({ length: SIDE_BY_SIDE }, lane));
    gathering.flush();
    going.end();
  }
}

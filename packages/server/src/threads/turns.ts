/**
 * Decides whose question is next. Askers take turns, however much each of them asks; and within an asker's questions a session has one
 * place: what it asks anew takes the place of what it asked before, which then costs nothing. So under load the newest
 * keystroke of everyone is answered late, never the oldest of a few.
 *
 * ```
 * asked      a1 b1 a2 c1 a3
 * answered   a1 b1 a3 c1       (a2 was overtaken while it waited)
 * ```
 */
import { OVERTAKEN, type Outcome } from '@usual-needle/host';

interface WaitingTurn {
  readonly session: string | undefined;
  readonly tell: (outcome: 'begin' | 'overtaken' | 'too many') => void;
}

/** The outcome of a question that was not begun. */
export type NotBegun = Outcome<never>;

/** The outcome where an asker has more questions waiting than are kept. */
const TOO_MANY: NotBegun = { is: 'refused', why: 'too many', message: 'Wait for some of the answers.' };

/** Questions of one asker that may wait. */
const MOST_WAITING = 200;

export class Turns {
  /** The turns that wait for each place, in the order in which they are next. */
  private readonly waiting = new Map<string, WaitingTurn[]>();
  private running = 0;
  private count = 0;
  private unnamed = 0;

  /** @param atOnce how many are answered side by side */
  constructor(private readonly atOnce: number) {}

  /** How many wait for their turn. */
  get waitingNow(): number {
    return this.count;
  }

  /**
   * @param asker undefined for one who asks nothing else
   * @param session undefined for a question that none overtakes
   * @returns what `work` gives, or why it was not begun
   */
  async run<T>(asker: string | undefined, session: string | undefined, work: () => Promise<T>): Promise<T | NotBegun> {
    if (this.running >= this.atOnce) {
      const outcome = await this.wait(this.placeOf(asker, session), session);
      if (outcome === 'too many') return TOO_MANY;
      if (outcome === 'overtaken') return OVERTAKEN;
      // Whoever ended has given the place on.
    } else this.running++;
    try {
      return await work();
    } finally {
      this.running--;
      this.next();
    }
  }

  /** Names the place of an asker's session: names of askers and of sessions, which anyone may choose, are never taken for each other. */
  private placeOf(asker: string | undefined, session: string | undefined): string {
    if (asker !== undefined) return `asker ${asker}`;
    return session !== undefined ? `session ${session}` : `question ${this.unnamed++}`;
  }

  private wait(place: string, session: string | undefined): Promise<'begin' | 'overtaken' | 'too many'> {
    return new Promise((tell) => {
      const mine: WaitingTurn = { session, tell };
      const theirs = this.waiting.get(place);
      if (!theirs) {
        this.waiting.set(place, [mine]);
        this.count++;
        return;
      }
      const before = session === undefined ? -1 : theirs.findIndex((one) => one.session === session);
      if (before >= 0) {
        theirs[before].tell('overtaken');
        theirs[before] = mine;
      } else if (theirs.length >= MOST_WAITING) tell('too many');
      else {
        theirs.push(mine);
        this.count++;
      }
    });
  }

  /** Drops what an asker asked, which is not wanted any more. */
  leave(asker: string): void {
    const place = this.placeOf(asker, undefined);
    const theirs = this.waiting.get(place) ?? [];
    this.waiting.delete(place);
    this.count -= theirs.length;
    for (const one of theirs) one.tell('overtaken');
  }

  private next(): void {
    const [first] = this.waiting;
    if (!first || this.running >= this.atOnce) return;
    const [place, [mine, ...others]] = first;
    // The others of the same asker wait until everyone else had a turn.
    this.waiting.delete(place);
    if (others.length > 0) this.waiting.set(place, others);
    this.running++;
    this.count--;
    mine.tell('begin');
  }
}

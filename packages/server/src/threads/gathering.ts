/**
 * Answers of several questions that were put together: they go back together, too, for a message each would cost more than most
 * answers do. One that is late holds none up.
 */

/** The time that an answer waits for others to go with, in milliseconds. */
const TOGETHER_MS = 6;

export class Gathering<T> {
  private gathered: T[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined;
  private since = 0;

  /** @param send takes those that go together @param left how many are awaited, if that is known: the last one waits for none */
  constructor(
    private readonly send: (some: T[]) => void,
    private left = Infinity,
  ) {}

  add(one: T): void {
    if (this.gathered.length === 0) this.since = performance.now();
    this.gathered.push(one);
    this.left--;
    // Whoever works without a rest does not let a timer in.
    if (this.left === 0 || performance.now() - this.since >= TOGETHER_MS) this.flush();
    else this.timer ??= setTimeout(() => this.flush(), TOGETHER_MS);
  }

  /** Sends what there is, if only nothing. */
  flush(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    const some = this.gathered;
    this.gathered = [];
    this.send(some);
  }
}

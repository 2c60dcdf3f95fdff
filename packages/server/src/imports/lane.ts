/** Work that is done piece by piece, in order, while the next pieces are made ready: so many may wait, and no more. */
export class Lane {
  private last: Promise<unknown> = Promise.resolve();
  private readonly waiting: Promise<unknown>[] = [];

  constructor(private readonly depth: number) {}

  /** Puts a piece of work at the end, once there is room for it. @throws what an earlier one threw */
  async add(work: () => Promise<unknown>): Promise<void> {
    if (this.waiting.length >= this.depth) await this.waiting.shift();
    // After one that failed nothing more is done.
    this.last = this.last.then(work);
    // It is waited for later; until then its failing is nobody's surprise.
    this.last.catch(() => undefined);
    this.waiting.push(this.last);
  }

  /** Waits for all of it. @throws what one of them threw */
  async done(): Promise<void> {
    await this.last;
  }
}

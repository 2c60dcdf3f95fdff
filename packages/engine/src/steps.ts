/** Long work in steps: whoever runs it can look up in between. */
export type Steps<T> = Generator<void, T>;

/** Counts work, and tells where a step of it ends. */
export class StepMeter {
  private left: number;

  /** @param step how much work one step is, in whatever it is counted by */
  constructor(private readonly step: number) {
    this.left = step;
  }

  /** Tells whether so much work more fills the step; the next one begins then. */
  fills(work: number): boolean {
    this.left -= work;
    if (this.left > 0) return false;
    this.left = this.step;
    return true;
  }
}

/** Runs steps to their end, all at once. */
export function finished<T>(steps: Steps<T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

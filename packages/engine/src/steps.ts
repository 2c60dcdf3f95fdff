/** Long work in steps: whoever runs it can look up in between. */
export type Steps<T> = Generator<void, T>;

/** Runs steps to their end, all at once. */
export function finished<T>(steps: Steps<T>): T {
  for (;;) {
    const step = steps.next();
    if (step.done) return step.value;
  }
}

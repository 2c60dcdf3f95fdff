/**
 * Verdicts on the distinct values of a column, one byte a value: kept where a judging is stopped, and goes on later. A search has
 * a hundred judgings, so those that are not stopped use the same memory one after the other.
 */
import { clearedBeginning, wholeBytes, type WholeBytes } from './bytes.js';

let verdicts = wholeBytes(0);

export class Judging {
  private stopped: WholeBytes | undefined;

  /**
   * @param values how many there are
   * @param mark makes 1 of the 0 of each that is asked; it is not called again where a judging goes on
   * @param judge makes 0 of the 1 of each that does not pass; what it throws stops the judging
   * @returns the verdicts, until the next judging
   */
  judge(values: number, mark: (asked: WholeBytes) => void, judge: (asked: WholeBytes) => void): WholeBytes {
    let asked = this.stopped;
    if (!asked) {
      if (verdicts.length < values) verdicts = wholeBytes(values);
      asked = clearedBeginning(verdicts, values);
      mark(asked);
    }
    try {
      judge(asked);
    } catch (stop) {
      (this.stopped ??= wholeBytes(values)).set(asked);
      throw stop;
    }
    return asked;
  }
}

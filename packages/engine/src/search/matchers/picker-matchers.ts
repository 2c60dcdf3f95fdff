/** Pickers as matchers of a cell: a choice list, a range of numbers or days, yes/no, and the letter strip. */
import type { Interval } from '../../notation/index.js';
import { ANSWERS, isValued, type Cell, type ColumnSegment, type WholeBytes } from '../../store/index.js';
import { fold, type Span } from '../../text/index.js';
import { judgeEach, NO_FILTER, type Filter, type Matcher } from './matcher.js';
import { IntervalMatcher } from './value-matchers.js';

export type Picker =
  | { readonly type: 'values'; readonly column: number; readonly values: readonly string[] }
  | { readonly type: 'interval'; readonly column: number; readonly interval: Interval }
  | { readonly type: 'unfit'; readonly column: number }
  | { readonly type: 'answer'; readonly column: number; readonly answer: 'yes' | 'no' | 'either' }
  | {
      readonly type: 'letters';
      readonly column: number;
      readonly letters: readonly string[];
      readonly position: 'starts' | 'contains';
    };

const YES = new Set([...ANSWERS.yes, '1']);
const NO = new Set([...ANSWERS.no, '0']);

abstract class PickerMatcher implements Matcher {
  abstract readonly key: string;
  readonly filter: Filter = NO_FILTER;
  protected abstract holds(folded: string): boolean;

  test(cell: Cell): boolean {
    return this.holds(fold(cell.shown));
  }

  spans(): Span[] {
    return [];
  }
}

class ValuesMatcher extends PickerMatcher {
  readonly key: string;
  override readonly filter: Filter;
  private readonly values: ReadonlySet<string>;

  constructor(values: readonly string[]) {
    super();
    this.values = new Set(values.map((value) => fold(value)));
    this.key = `values ${JSON.stringify([...this.values])}`;
    // A cell that is one of the values holds its first token; a blank one holds none.
    const tokens = Array.from(this.values, (value) => value.split(' ', 1)[0]);
    this.filter = tokens.includes('') ? NO_FILTER : { pieces: [tokens], exact: false };
  }

  protected holds(folded: string): boolean {
    return this.values.has(folded);
  }
}

class AnswerMatcher extends PickerMatcher {
  readonly key: string;

  constructor(private readonly answer: 'yes' | 'no') {
    super();
    this.key = `answer ${answer}`;
  }

  protected holds(folded: string): boolean {
    return (this.answer === 'yes' ? YES : NO).has(folded);
  }
}

/** Cells that are not blank and that their column's kind cannot read. */
class UnfitMatcher extends PickerMatcher {
  readonly key = 'unfit';

  override test(cell: Cell): boolean {
    if (cell.blank) return false;
    if (isValued(cell.column)) return cell.value === undefined;
    return cell.column.kind === 'yes/no' && super.test(cell);
  }

  protected holds(folded: string): boolean {
    return !YES.has(folded) && !NO.has(folded);
  }
}

class LettersMatcher extends PickerMatcher {
  readonly key: string;
  override readonly filter: Filter;
  private readonly letters: readonly string[];

  constructor(
    letters: readonly string[],
    private readonly position: 'starts' | 'contains',
  ) {
    super();
    this.letters = letters.map((letter) => fold(letter)).filter((letter) => letter !== '');
    this.filter = { pieces: [this.letters], exact: false };
    this.key = `letters ${position} ${JSON.stringify(this.letters)}`;
  }

  protected holds(folded: string): boolean {
    return this.letters.some((letter) =>
      this.position === 'starts' ? folded.startsWith(letter) : folded.includes(letter),
    );
  }

  /** Judges values by their first chunks that are not only spaces: a text starts with what those do. */
  judge(column: ColumnSegment, asked: WholeBytes): void {
    const { chunks, spec } = column;
    if (this.position === 'contains' || isValued(spec)) {
      judgeEach(asked, (value) => this.test(column.valueCell(value)));
      return;
    }
    const folded: string[] = [];
    judgeEach(asked, (value) => {
      for (let i = chunks.starts[value]; i < chunks.starts[value + 1]; i++) {
        const text = (folded[chunks.sequence[i]] ??= fold(chunks.at(chunks.sequence[i])));
        if (text !== '') return this.holds(text);
      }
      return false;
    });
  }
}

/** @returns undefined for a picker that is blank, and so no condition */
export function pickerMatcher(picker: Picker): Matcher | undefined {
  switch (picker.type) {
    case 'values':
      return picker.values.length === 0 ? undefined : new ValuesMatcher(picker.values);
    case 'interval':
      return picker.interval.low === undefined && picker.interval.high === undefined
        ? undefined
        : new IntervalMatcher(picker.interval);
    case 'unfit':
      return new UnfitMatcher();
    case 'answer':
      return picker.answer === 'either' ? undefined : new AnswerMatcher(picker.answer);
    case 'letters':
      return picker.letters.length === 0 ? undefined : new LettersMatcher(picker.letters, picker.position);
  }
}

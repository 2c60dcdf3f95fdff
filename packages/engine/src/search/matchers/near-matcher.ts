/** Near spelling: some word of the cell is within a small distance of the one typed. */
import { NearAutomaton } from '../../automaton/index.js';
import {
  addBits,
  emptyBits,
  FACE_BREAK_CHUNK,
  type Bits,
  type RowSet,
  type Cell,
  type ColumnSegment,
  type WholeBytes,
} from '../../store/index.js';
import { fold, foldWithOffsets, words, type FoldSetting, type Span } from '../../text/index.js';
import { foldedForm } from '../chunks/folded-chunks.js';
import { judgeEach, NO_FILTER, type Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

/** The verdicts on a chunk; 0 for none yet. */
const Verdict = { far: 1, near: 2, untold: 3 } as const;

export class NearMatcher implements Matcher {
  readonly key: string;
  readonly filter = NO_FILTER;
  private readonly automaton: NearAutomaton;
  private readonly loose: boolean;
  /** Does what `automaton` does, of the word as it is written in the vocabulary; undefined if some letter of it is several there. */
  private readonly loosely: NearAutomaton | undefined;

  constructor(
    word: string,
    private readonly setting: FoldSetting,
  ) {
    const folded = fold(word, setting);
    this.automaton = new NearAutomaton(folded);
    this.key = `near ${setting.case} ${setting.accents} ${folded}`;
    this.loose = setting.case === 'ignore' && setting.accents === 'ignore';
    if (this.loose) this.loosely = this.automaton;
    else if ([...folded].every((letter) => [...fold(letter)].length === 1))
      this.loosely = new NearAutomaton(fold(word), this.automaton.distance);
  }

  private near(text: string): Span[] {
    return words(text).filter(({ start, end }) => this.automaton.distanceOf(text.slice(start, end)) !== Infinity);
  }

  test(cell: Cell): boolean {
    // A face break is no word character, so no word lies across it.
    return this.near(cell.folded(this.setting)).length > 0;
  }

  indexedRows(column: ColumnSegment): RowSet | undefined {
    const near = this.loosely && this.rowsNear(column, this.loosely);
    if (this.loose) return near;
    // Letters told apart are farther apart than letters that are not, where each is one letter either way.
    const candidates = this.loosely && (near ?? emptyBits(column.rowCount));
    if (candidates) addBits(candidates, column.rowsBeyondAscii);
    return column.rowsWhere((asked) => this.judge(column, asked), candidates);
  }

  private rowsNear({ vocabulary, rowCount }: ColumnSegment, automaton: NearAutomaton): Bits | undefined {
    let rows: Bits | undefined;
    automaton.over(vocabulary.words, (word) => {
      rows ??= emptyBits(rowCount);
      for (const token of vocabulary.words.tokensOf(word)) vocabulary.addRows(token, rows);
    });
    return rows;
  }

  /** No word goes beyond its chunk, so each chunk is looked at once. */
  judge(column: ColumnSegment, asked: WholeBytes): void {
    const { chunks } = column;
    const { starts, sequence } = chunks;
    const verdicts = new Uint8Array(chunks.own.end);
    verdicts[FACE_BREAK_CHUNK] = Verdict.far;
    judgeEach(asked, (value) => {
      for (let i = starts[value]; i < starts[value + 1]; i++) {
        const verdict = (verdicts[sequence[i]] ||= this.verdictOn(chunks.at(sequence[i])));
        if (verdict === Verdict.near) return true;
        if (verdict === Verdict.untold) return this.test(column.valueCell(value));
      }
      return false;
    });
  }

  private verdictOn(chunk: string): number {
    const form = foldedForm(chunk, this.setting, 'none');
    if (!form) return Verdict.untold;
    return this.near(form.text).length > 0 ? Verdict.near : Verdict.far;
  }

  spans(cell: Cell): Span[] {
    if (!this.test(cell)) return [];
    const folded = foldWithOffsets(cell.shown, this.setting);
    const spans = sourceSpans(folded, this.near(folded.text));
    return spans.length > 0 ? spans : wholeShown(cell);
  }
}

/** Near spelling: some word of the cell is within a small distance of the one typed. */
import { NearAutomaton } from '../automaton/index.js';
import { emptyBits, type Bits, type Cell, type ColumnSegment } from '../store/index.js';
import { fold, foldWithOffsets, words, type FoldSetting, type Span } from '../text/index.js';
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

export class NearMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter = { pieces: [], exact: false };
  private readonly automaton: NearAutomaton;
  private readonly loose: boolean;

  constructor(
    word: string,
    private readonly setting: FoldSetting,
  ) {
    const folded = fold(word, setting);
    this.automaton = new NearAutomaton(folded);
    this.key = `near ${setting.case} ${setting.accents} ${folded}`;
    this.loose = setting.case === 'ignore' && setting.accents === 'ignore';
  }

  private near(text: string): Span[] {
    return words(text).filter(({ start, end }) => this.automaton.distanceOf(text.slice(start, end)) !== Infinity);
  }

  test(cell: Cell): boolean {
    // A face break is no word character, so no word lies across it.
    return this.near(cell.folded(this.setting)).length > 0;
  }

  indexedRows(column: ColumnSegment): Bits | undefined {
    if (!this.loose) return column.rowsWhere((code) => this.test(column.valueCell(code)));
    const { vocabulary } = column;
    let rows: Bits | undefined;
    this.automaton.over(vocabulary.words, (word) => {
      rows ??= emptyBits(column.rowCount);
      for (const token of vocabulary.words.tokensOf(word)) vocabulary.addRows(token, rows);
    });
    return rows;
  }

  spans(cell: Cell): Span[] {
    if (!this.test(cell)) return [];
    const folded = foldWithOffsets(cell.shown, this.setting);
    const spans = sourceSpans(folded, this.near(folded.text));
    return spans.length > 0 ? spans : wholeShown(cell);
  }
}

/** Wildcards: text with `?` and `*` over the folded cell. */
import { compileWildcard, Dfa, Marker, wildcardPieces, type Program } from '../automaton/index.js';
import type { Where } from '../notation/index.js';
import { FACE_BREAK, type Cell, type ColumnSegment } from '../store/index.js';
import {
  fold, foldWithOffsets, graphemeStarts, isOneUnitEach, type FoldSetting, type Span,
} from '../text/index.js'; // prettier-ignore
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

export class WildcardMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly program: Program;
  private readonly dfa: Dfa;
  private readonly counts: boolean;
  private builtMarker: Marker | undefined;

  /** @throws TooLarge */
  constructor(
    template: string,
    where: Where,
    private readonly setting: FoldSetting,
  ) {
    const folded = fold(template, setting);
    this.program = compileWildcard(folded, where);
    this.dfa = new Dfa(this.program);
    // Only `?` cares how many characters there are.
    this.counts = folded.includes('\ufdd0');
    this.key = `wildcard ${where} ${setting.case} ${setting.accents} ${folded}`;
    this.filter = { pieces: wildcardPieces(template), exact: false };
  }

  private get marker(): Marker {
    return (this.builtMarker ??= new Marker(this.program));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (text === '') return false;
    if (!this.counts || isOneUnitEach(text)) return text.split(FACE_BREAK).some((face) => this.dfa.test(face));
    if (this.shownSpans(cell).length > 0) return true;
    const [, plain] = text.split(FACE_BREAK);
    return plain !== undefined && this.dfa.test(plain);
  }

  testValue(column: ColumnSegment, code: number): boolean {
    const loose = this.setting.case === 'ignore' && this.setting.accents === 'ignore';
    if (!loose || column.plainValues[code] === 0) return this.test(column.valueCell(code));
    return this.dfa.test(column.folded.joined, column.folded.starts[code], column.folded.end(code));
  }

  /** Hits in the shown text, as ranges of its folded form; empty ones too. */
  private shownSpans(cell: Cell): Span[] {
    const folded = foldWithOffsets(cell.shown, this.setting);
    if (folded.text === '') return [];
    const starts = this.counts && !isOneUnitEach(folded.text) ? graphemeStarts(cell.shown, folded) : undefined;
    return this.marker.findAll(folded.text, starts);
  }

  spans(cell: Cell): Span[] {
    if (!this.test(cell)) return [];
    const spans = this.shownSpans(cell);
    return spans.length > 0 ? sourceSpans(foldWithOffsets(cell.shown, this.setting), spans) : wholeShown(cell);
  }
}

/** Wildcards: text with `?` and `*` over the folded cell. */
import { compileWildcard, Dfa, Marker, wildcardPieces, type Program } from '../automaton/index.js';
import { ANY_RUN, ONE_CHARACTER, type Where } from '../notation/index.js';
import { FACE_BREAK, Lies, PASSED, type Cell, type ColumnSegment } from '../store/index.js';
import {
  fold, foldWithOffsets, graphemeStarts, isAscii, type FoldSetting, type Span,
} from '../text/index.js'; // prettier-ignore
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

const SIGNS = new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u');

export class WildcardMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly program: Program;
  private readonly dfa: Dfa;
  private readonly counts: boolean;
  /** What every hit begins with, where that is all there is to say of where it begins. */
  private readonly lead: string;
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
    this.lead = where === 'anywhere' ? folded.split(SIGNS)[0] : '';
    // Only `?` cares how many characters there are.
    this.counts = folded.includes(ONE_CHARACTER);
    this.key = `wildcard ${where} ${setting.case} ${setting.accents} ${folded}`;
    this.filter = { pieces: wildcardPieces(template), exact: false };
  }

  private get marker(): Marker {
    return (this.builtMarker ??= new Marker(this.program));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (text === '' || !text.includes(this.lead)) return false;
    const [face, plain] = text.split(FACE_BREAK);
    if (plain !== undefined && this.dfa.test(plain)) return true;
    const { shown } = cell;
    if (!this.counts || (isAscii(shown) && face.length === shown.length)) return this.dfa.test(face);
    return this.shownSpans(cell).length > 0;
  }

  private get loose(): boolean {
    return this.setting.case === 'ignore' && this.setting.accents === 'ignore';
  }

  testValue(column: ColumnSegment, code: number): boolean {
    if (!this.loose || (column.lies[code] & Lies.unitForUnit) === 0) return this.test(column.valueCell(code));
    return this.dfa.test(column.folded.joined, column.folded.starts[code], column.folded.end(code));
  }

  verdicts(column: ColumnSegment): Uint8Array {
    const verdicts = new Uint8Array(column.valueCount);
    const { folded, lies } = column;
    const mask = this.loose ? Lies.unitForUnit : 0;
    if (this.loose) this.dfa.testEach(folded.joined, folded.starts, lies, mask, verdicts, PASSED, this.lead);
    for (let code = 0; code < verdicts.length; code++) {
      if ((lies[code] & mask) === 0 && this.test(column.valueCell(code))) verdicts[code] = PASSED;
    }
    return verdicts;
  }

  /** Hits in the shown text, as ranges of its folded form; empty ones too. */
  private shownSpans(cell: Cell): Span[] {
    const folded = foldWithOffsets(cell.shown, this.setting);
    if (folded.text === '') return [];
    const starts = this.counts && !isAscii(cell.shown) ? graphemeStarts(cell.shown, folded) : undefined;
    return this.marker.findAll(folded.text, starts);
  }

  spans(cell: Cell): Span[] {
    if (!this.test(cell)) return [];
    const spans = this.shownSpans(cell);
    return spans.length > 0 ? sourceSpans(foldWithOffsets(cell.shown, this.setting), spans) : wholeShown(cell);
  }
}

/** Wildcards: text with `?` and `*` over the folded cell. */
import { compileWildcard, Dfa, Marker, wildcardPieces, type Program } from '../automaton/index.js';
import { ANY_RUN, ONE_CHARACTER, type Where } from '../notation/index.js';
import { FACE_BREAK, type Cell, type ColumnSegment } from '../store/index.js';
import { fold, foldWithOffsets, graphemeStarts, isAscii, type FoldSetting, type Span } from '../text/index.js';
import type { ChunkReader } from './chunk-reader.js';
import { foldedReader } from './folded-chunks.js';
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

const SIGNS = new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u');
const RUNS_AT_ENDS = new RegExp(`^${ANY_RUN}+|${ANY_RUN}+$`, 'gu');

export class WildcardMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly program: Program;
  private readonly dfa: Dfa;
  private readonly counts: boolean;
  private reader: ChunkReader | undefined;
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
    this.counts = folded.includes(ONE_CHARACTER);
    this.key = `wildcard ${where} ${setting.case} ${setting.accents} ${folded}`;
    const pieces = wildcardPieces(template);
    // A run at either end asks nothing: what is left may be a plain text.
    const core = where === 'anywhere' ? folded.replace(RUNS_AT_ENDS, '') : folded;
    const loose = setting.case === 'ignore' && setting.accents === 'ignore';
    this.filter = { pieces, exact: loose && where === 'anywhere' && !SIGNS.test(core) && pieces.length === 1 };
  }

  private get marker(): Marker {
    return (this.builtMarker ??= new Marker(this.program));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (text === '') return false;
    const [face, plain] = text.split(FACE_BREAK);
    if (plain !== undefined && this.dfa.test(plain)) return true;
    if (!this.counts || isAscii(cell.shown)) return this.dfa.test(face);
    const folded = foldWithOffsets(cell.shown, this.setting);
    return this.dfa.test(folded.text, graphemeStarts(cell.shown, folded));
  }

  judge(column: ColumnSegment, asked: Uint8Array): void {
    this.reader ??= foldedReader(this.dfa, this.setting, this.counts);
    this.reader.judge(column, asked, (cell) => this.test(cell));
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

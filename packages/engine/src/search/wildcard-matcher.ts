/** Wildcards: text with `?` and `*` over the folded cell. */
import { compileWildcard, Dfa, Gapped, Marker, wildcardPieces, type Program } from '../automaton/index.js';
import { ANY_RUN, ONE_CHARACTER, type Where } from '../notation/index.js';
import { FACE_BREAK, Lies, PASSED, type Cell, type ColumnSegment, type TextPool } from '../store/index.js';
import {
  fold, foldWithOffsets, graphemeStarts, isAscii, isEven, type FoldSetting, type Span,
} from '../text/index.js'; // prettier-ignore
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

const SIGNS = new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u');
const NOT_ASCII = /[^\x00-\x7f]+/;
const RUNS_AT_ENDS = new RegExp(`^${ANY_RUN}+|${ANY_RUN}+$`, 'gu');

export class WildcardMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly program: Program;
  private readonly dfa: Dfa;
  private readonly counts: boolean;
  /** For texts of which every unit is a character. */
  private readonly gapped: Gapped | undefined;
  readonly testToken?: (token: string) => boolean;
  readonly tokensThatHit?: (tokens: TextPool) => number[];
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
    this.gapped = where === 'anywhere' ? Gapped.of(folded) : undefined;
    // Only `?` cares how many characters there are.
    this.counts = folded.includes(ONE_CHARACTER);
    this.key = `wildcard ${where} ${setting.case} ${setting.accents} ${folded}`;
    const pieces = wildcardPieces(template);
    // A run at either end asks nothing: what is left may be a plain text.
    const core = where === 'anywhere' ? folded.replace(RUNS_AT_ENDS, '') : folded;
    this.filter = { pieces, exact: this.loose && where === 'anywhere' && !SIGNS.test(core) && pieces.length === 1 };
    const { gapped } = this;
    if (where !== 'anywhere' || setting.case === 'respect') return;
    if (gapped) this.tokensThatHit = ({ joined, starts }) => gapped.among(joined, starts);
    else this.testToken = (token) => this.dfa.test(token);
  }

  private get marker(): Marker {
    return (this.builtMarker ??= new Marker(this.program));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (text === '') return false;
    const [face, plain] = text.split(FACE_BREAK);
    if (plain !== undefined && this.dfa.test(plain)) return true;
    const { shown } = cell;
    if (!this.counts || isAscii(shown)) return (this.gapped ?? this.dfa).test(face);
    return this.hitsPlainly(shown) || this.shownSpans(cell).length > 0;
  }

  /** Whether it stands in a plain stretch of an uneven text: enough to know, and quickly known. */
  private hitsPlainly(shown: string): boolean {
    const { gapped } = this;
    if (!gapped || !this.loose) return false;
    return shown.split(NOT_ASCII).some((run) => isEven(run) && gapped.test(run.toLowerCase()));
  }

  private get loose(): boolean {
    return this.setting.case === 'ignore' && this.setting.accents === 'ignore';
  }

  testValue(column: ColumnSegment, code: number): boolean {
    if (!this.loose || (column.lies[code] & Lies.unitForUnit) === 0) return this.test(column.valueCell(code));
    const { folded } = column;
    if (this.gapped) return this.gapped.test(folded.at(code));
    return this.dfa.test(folded.joined, folded.starts[code], folded.end(code));
  }

  verdicts(column: ColumnSegment, wanted?: Uint8Array): Uint8Array {
    const verdicts = new Uint8Array(column.valueCount);
    const { folded, lies } = column;
    const mask = this.loose ? Lies.unitForUnit : 0;
    const asked = wanted ? column.liesOf(wanted) : lies;
    if (this.loose) (this.gapped ?? this.dfa).testEach(folded.joined, folded.starts, asked, mask, verdicts, PASSED);
    for (let code = 0; code < verdicts.length; code++) {
      if ((lies[code] & mask) === 0 && wanted?.[code] !== 0 && this.test(column.valueCell(code)))
        verdicts[code] = PASSED;
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

/** Patterns: a regular expression over the cell with only case and accents folded. */
import { compilePattern, Dfa, Marker, requiredPieces } from '../../automaton/index.js';
import { parsePattern } from '../../notation/index.js';
import { finished, type Steps } from '../../steps.js';
import { Trait, type Cell, type ColumnSegment, type WholeBytes } from '../../store/index.js';
import {
  characterStarts,
  foldForPattern,
  foldForPatternWithOffsets,
  isCombiningMark,
  standsAlone,
  type FoldSetting,
  type Span,
} from '../../text/index.js';
import { ChunkReader } from '../chunks/chunk-reader.js';
import type { ChunkForm } from '../chunks/chunk-reading.js';
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

export class PatternMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly dfa: Dfa;
  private readonly program;
  private readonly edges: boolean;
  private reader: ChunkReader | undefined;
  private marker: Marker | undefined;

  /** @throws TooLarge, or Error for a source that `parsePattern` refuses */
  constructor(
    source: string,
    private readonly setting: FoldSetting,
  ) {
    const parsed = parsePattern(source);
    if ('problem' in parsed) throw new Error(parsed.problem.message);
    this.edges = setting.accents === 'respect';
    this.program = compilePattern(parsed.tree, setting);
    this.dfa = new Dfa(this.program);
    this.key = `pattern ${setting.case} ${setting.accents} ${source}`;
    this.filter = { pieces: requiredPieces(parsed.tree), exact: false };
  }

  /** Finds where characters begin in a text the pattern runs over, if it minds. */
  private startsIn(text: string): Uint8Array | undefined {
    return this.edges ? characterStarts(text) : undefined;
  }

  test(cell: Cell): boolean {
    return cell.patternFaces(this.setting).some((face) => this.dfa.test(face, this.startsIn(face)));
  }

  /** The form of a chunk; undefined if it depends on what stands beside it. */
  private form(chunk: string): ChunkForm | undefined {
    if (isCombiningMark(chunk.codePointAt(0)!) || (this.edges && !standsAlone(chunk))) return undefined;
    const text = foldForPattern(chunk, this.setting);
    return { text, starts: this.startsIn(text) };
  }

  judge(column: ColumnSegment, asked: WholeBytes): void {
    const { setting } = this;
    this.reader ??= new ChunkReader(this.dfa, {
      key: `pattern ${setting.case} ${setting.accents}`,
      letters: this.dfa.lettersOf((unit) => unit),
      trait: Trait.ascii,
      form: (chunk) => this.form(chunk),
      trimmed: false,
    });
    this.reader.judge(column, asked, (cell) => this.test(cell));
  }

  spans(cell: Cell): Span[] {
    return finished(this.spanSteps(cell));
  }

  *spanSteps(cell: Cell): Steps<Span[]> {
    // Where testing takes as long as marking, and in one piece, it is left for last.
    if (!this.dfa.overgrown && !this.test(cell)) return [];
    const folded = foldForPatternWithOffsets(cell.shown, this.setting);
    this.marker ??= new Marker(this.program);
    const spans = yield* this.marker.findSteps(folded.text, this.startsIn(folded.text));
    if (spans.length > 0) return sourceSpans(folded, spans);
    return this.test(cell) ? wholeShown(cell) : [];
  }
}

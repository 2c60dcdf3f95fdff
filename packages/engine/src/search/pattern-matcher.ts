/** Patterns: a regular expression over the cell with only case and accents folded. */
import { compilePattern, Dfa, Marker, requiredPieces } from '../automaton/index.js';
import { parsePattern } from '../notation/index.js';
import { Lies, PASSED, type Cell, type ColumnSegment } from '../store/index.js';
import { foldForPatternWithOffsets, type FoldSetting, type Span } from '../text/index.js';
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

export class PatternMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly dfa: Dfa;
  private readonly program;
  private marker: Marker | undefined;

  /** @throws TooLarge, or Error for a source that `parsePattern` refuses */
  constructor(
    source: string,
    private readonly setting: FoldSetting,
  ) {
    const parsed = parsePattern(setting.accents === 'respect' ? source.normalize('NFC') : source);
    if ('problem' in parsed) throw new Error(parsed.problem.message);
    this.program = compilePattern(parsed.tree, setting);
    this.dfa = new Dfa(this.program);
    this.key = `pattern ${setting.case} ${setting.accents} ${source}`;
    this.filter = { pieces: requiredPieces(parsed.tree), exact: false };
  }

  test(cell: Cell): boolean {
    return cell.patternFaces(this.setting).some((face) => this.dfa.test(face));
  }

  testValue(column: ColumnSegment, code: number): boolean {
    const { raw } = column;
    if ((column.lies[code] & Lies.forPattern) !== 0) return this.dfa.test(raw.joined, raw.starts[code], raw.end(code));
    return column.patternFaces(code, this.setting).some((face) => this.dfa.test(face));
  }

  verdicts(column: ColumnSegment): Uint8Array {
    const verdicts = new Uint8Array(column.valueCount);
    const { raw, lies } = column;
    this.dfa.testEach(raw.joined, raw.starts, lies, Lies.forPattern, verdicts, PASSED);
    for (let code = 0; code < verdicts.length; code++) {
      if ((lies[code] & Lies.forPattern) === 0 && this.testValue(column, code)) verdicts[code] = PASSED;
    }
    return verdicts;
  }

  spans(cell: Cell): Span[] {
    if (!this.test(cell)) return [];
    const folded = foldForPatternWithOffsets(cell.shown, this.setting);
    this.marker ??= new Marker(this.program);
    const spans = this.marker.findAll(folded.text);
    return spans.length > 0 ? sourceSpans(folded, spans) : wholeShown(cell);
  }
}

/** Patterns: a regular expression over the cell with only case and accents folded. */
import { asksForEnds, compilePattern, Dfa, Marker, requiredPieces } from '../automaton/index.js';
import { parsePattern } from '../notation/index.js';
import { FACE_BREAK, Lies, PASSED, type Cell, type ColumnSegment } from '../store/index.js';
import { foldForPatternWithOffsets, type FoldSetting, type Span } from '../text/index.js';
import type { Filter, Matcher } from './matcher.js';
import { sourceSpans, wholeShown } from './text-matcher.js';

export class PatternMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly dfa: Dfa;
  private readonly program;
  readonly testToken?: (token: string) => boolean;
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
    if (setting.case === 'ignore' && !asksForEnds(this.program)) this.testToken = (token) => this.dfa.test(token);
  }

  test(cell: Cell): boolean {
    return cell.patternFaces(this.setting).some((face) => this.dfa.test(face));
  }

  testValue(column: ColumnSegment, code: number): boolean {
    const { raw, folded } = column;
    const how = column.lies[code];
    if ((how & Lies.forPattern) !== 0) return this.dfa.test(raw.joined, raw.starts[code], raw.end(code));
    if ((how & Lies.evenFaces) !== 0 && this.setting.case === 'ignore') {
      const [from, to] = [folded.starts[code], folded.end(code)];
      const second = folded.joined.indexOf(FACE_BREAK, from);
      if (second >= to) return this.dfa.test(folded.joined, from, to);
      return this.dfa.test(folded.joined, from, second) || this.dfa.test(folded.joined, second + 1, to);
    }
    return column.patternFaces(code, this.setting).some((face) => this.dfa.test(face));
  }

  verdicts(column: ColumnSegment, wanted?: Uint8Array): Uint8Array {
    const verdicts = new Uint8Array(column.valueCount);
    const { raw, lies } = column;
    const asked = wanted ? column.liesOf(wanted) : lies;
    this.dfa.testEach(raw.joined, raw.starts, asked, Lies.forPattern, verdicts, PASSED);
    for (let code = 0; code < verdicts.length; code++) {
      if ((lies[code] & Lies.forPattern) === 0 && wanted?.[code] !== 0 && this.testValue(column, code))
        verdicts[code] = PASSED;
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

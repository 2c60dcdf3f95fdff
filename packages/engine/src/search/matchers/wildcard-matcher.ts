/** Wildcards: text with `?` and `*` over the folded cell. */
import { compileWildcard, Dfa, Marker, wildcardPieces, type Program } from '../../automaton/index.js';
import { ANY_RUN, ONE_CHARACTER, type Where } from '../../notation/index.js';
import { finished, type Steps } from '../../steps.js';
import {
  addRows,
  dropBits,
  FACE_BREAK,
  isEmpty,
  type Bits,
  type Cell,
  type ColumnSegment,
  type Judging,
  type WholeBytes,
} from '../../store/index.js';
import {
  characterStarts,
  fold,
  foldWithOffsets,
  graphemeStarts,
  isAscii,
  type Folded,
  type FoldSetting,
  type Span,
} from '../../text/index.js';
import type { ChunkReader } from '../chunks/chunk-reader.js';
import { foldedReader, type Characters } from '../chunks/folded-chunks.js';
import type { Filter, Growth, Matcher } from './matcher.js';
import { hasHalves, SIGNS, sourceSpans, textKey, wholeShown } from './text-matcher.js';

const ANYTHING = new RegExp(`^${ANY_RUN}*(${ONE_CHARACTER}${ANY_RUN}*)?$`, 'u');
const RUNS_AT_ENDS = new RegExp(`^${ANY_RUN}+|${ANY_RUN}+$`, 'gu');

export class WildcardMatcher implements Matcher {
  readonly key: string;
  readonly growth?: Growth;
  readonly indexedRows?: Matcher['indexedRows'];
  readonly filter: Filter;
  private readonly program: Program;
  private readonly dfa: Dfa;
  private readonly characters: Characters;
  private reader: ChunkReader | undefined;
  private builtMarker: Marker | undefined;

  /** @throws TooLarge */
  constructor(
    template: string,
    where: Where,
    private readonly setting: FoldSetting,
  ) {
    const folded = fold(template, setting);
    const edges = setting.accents === 'respect';
    this.program = compileWildcard(folded, where, edges);
    this.dfa = new Dfa(this.program);
    this.characters = folded.includes(ONE_CHARACTER) ? 'shown' : edges ? 'folded' : 'none';
    ({ key: this.key, growth: this.growth } = textKey(folded, where, setting, { shown: this.characters === 'shown' }));
    if (where === 'anywhere' && ANYTHING.test(folded))
      this.indexedRows = (column, judging) => this.filledRows(column, judging);
    const pieces = wildcardPieces(template);
    // A run at either end asks nothing: what is left may be a plain text. A space beside the run has to be there, too.
    const core = where === 'anywhere' ? folded.replace(RUNS_AT_ENDS, '') : folded;
    const loose = setting.case === 'ignore' && setting.accents === 'ignore';
    const plain = loose && where === 'anywhere' && !SIGNS.test(core) && !core.includes(' ');
    this.filter = { pieces, exact: plain && pieces.length === 1 && !hasHalves(core) };
  }

  /** The rows of a wildcard that any filled ASCII cell hits. */
  private filledRows(column: ColumnSegment, judging: Judging): Bits {
    const { filledRows: rows, rowsBeyondAscii } = column;
    if (isEmpty(rowsBeyondAscii)) return rows;
    dropBits(rows, rowsBeyondAscii);
    const others = column.rowsWhere((asked) => this.judge(column, asked), rowsBeyondAscii, judging);
    if (others) addRows(rows, others);
    return rows;
  }

  private get marker(): Marker {
    return (this.builtMarker ??= new Marker(this.program));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (text === '') return false;
    const even = this.characters === 'none' || isAscii(cell.raw);
    if (even) return text.split(FACE_BREAK).some((face) => this.dfa.test(face));
    return cell.faces.some((face) => {
      const folded = foldWithOffsets(face, this.setting);
      return this.dfa.test(folded.text, this.startsIn(face, folded));
    });
  }

  private startsIn(shown: string, folded: Folded): Uint8Array | undefined {
    if (this.characters === 'none' || isAscii(shown)) return undefined;
    return this.characters === 'shown' ? graphemeStarts(shown, folded) : characterStarts(folded.text);
  }

  judge(column: ColumnSegment, asked: WholeBytes): void {
    this.reader ??= foldedReader(this.dfa, this.setting, this.characters);
    this.reader.judge(column, asked, (cell) => this.test(cell));
  }

  spans(cell: Cell): Span[] {
    return finished(this.spanSteps(cell));
  }

  *spanSteps(cell: Cell): Steps<Span[]> {
    // Where testing takes as long as marking, and in one piece, it is left for last.
    if (!this.dfa.overgrown && !this.test(cell)) return [];
    const folded = foldWithOffsets(cell.shown, this.setting);
    const spans =
      folded.text === '' ? [] : yield* this.marker.findSteps(folded.text, this.startsIn(cell.shown, folded));
    if (spans.length > 0) return sourceSpans(folded, spans);
    return this.test(cell) ? wholeShown(cell) : [];
  }
}

/** Words and phrases: a folded text that stands somewhere in a folded cell. */
import { FACE_BREAK, type Cell, type ColumnSegment } from '../store/index.js';
import {
  endsWord,
  fold,
  foldWithOffsets,
  startsWord,
  type FoldSetting,
  type Folded,
  type Span,
} from '../text/index.js';
import { compileText, Dfa, piecesOf } from '../automaton/index.js';
import type { Where } from '../notation/index.js';
import type { ChunkReader } from './chunk-reader.js';
import { foldedReader } from './folded-chunks.js';
import type { Filter, Matcher } from './matcher.js';

/** First hit of `needle` in `text` at or after `from`, as the position asked for allows; -1 if none. */
export function findText(text: string, needle: string, where: Where, from: number): number {
  switch (where) {
    case 'anywhere':
      return text.indexOf(needle, from);
    case 'start of the cell':
      return from === 0 && text.startsWith(needle) ? 0 : -1;
    case 'end of the cell': {
      const at = text.length - needle.length;
      return at >= from && text.endsWith(needle) ? at : -1;
    }
    case 'whole cell':
      return from === 0 && text === needle ? 0 : -1;
    default:
      for (let at = text.indexOf(needle, from); at >= 0; at = text.indexOf(needle, at + 1)) {
        if (startsWord(text, at) && (where === 'start of a word' || endsWord(text, at + needle.length))) return at;
      }
      return -1;
  }
}

/** Ranges of a folded text as ranges of its source; what folds to one source character is one range. */
export function sourceSpans(folded: Folded, spans: readonly Span[]): Span[] {
  const mapped: Span[] = [];
  for (const span of spans) {
    if (span.end <= span.start) continue;
    const start = folded.starts[span.start];
    const end = folded.ends[span.end - 1];
    const last = mapped.at(-1);
    if (last && start < last.end) mapped[mapped.length - 1] = { start: last.start, end: Math.max(last.end, end) };
    else mapped.push({ start, end });
  }
  return mapped;
}

export class TextMatcher implements Matcher {
  readonly key: string;
  readonly filter: Filter;
  private readonly needle: string;
  private reader: ChunkReader | undefined;

  /** @param text not blank once folded; see `foldedNeedle` */
  constructor(
    text: string,
    private readonly where: Where,
    private readonly setting: FoldSetting,
  ) {
    this.needle = fold(text, setting);
    this.key = `text ${where} ${setting.case} ${setting.accents} ${this.needle}`;
    const loose = setting.case === 'ignore' && setting.accents === 'ignore';
    const pieces = piecesOf(text).map((piece) => [piece]);
    this.filter = { pieces, exact: loose && where === 'anywhere' && pieces.length === 1 };
  }

  judge(column: ColumnSegment, asked: Uint8Array): void {
    this.reader ??= foldedReader(new Dfa(compileText(this.needle, this.where)), this.setting, false);
    this.reader.judge(column, asked, (cell) => this.test(cell));
  }

  test(cell: Cell): boolean {
    const text = cell.folded(this.setting);
    if (!text.includes(FACE_BREAK)) return findText(text, this.needle, this.where, 0) >= 0;
    return text.split(FACE_BREAK).some((face) => findText(face, this.needle, this.where, 0) >= 0);
  }

  spans(cell: Cell): Span[] {
    const folded = foldWithOffsets(cell.shown, this.setting);
    const spans: Span[] = [];
    for (let at = findText(folded.text, this.needle, this.where, 0); at >= 0;) {
      spans.push({ start: at, end: at + this.needle.length });
      at = findText(folded.text, this.needle, this.where, at + this.needle.length);
    }
    if (spans.length > 0) return sourceSpans(folded, spans);
    return this.test(cell) ? wholeShown(cell) : [];
  }
}

/** For a hit in the plain text only: the whole shown text, since that is what the plain text stands for. */
export function wholeShown(cell: Cell): Span[] {
  const shown = cell.shown;
  return shown === '' ? [] : [{ start: 0, end: shown.length }];
}

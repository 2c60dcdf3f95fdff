/** Words and phrases: a folded text that stands somewhere in a folded cell. */
import { emptyBits, FACE_BREAK, type Bits, type Cell, type ColumnSegment, type WholeBytes } from '../../store/index.js';
import { EndsReader } from '../chunks/at-ends.js';
import {
  characterStarts,
  endsWord,
  fold,
  foldWithOffsets,
  isEven,
  startsWord,
  type FoldSetting,
  type Folded,
  type Span,
} from '../../text/index.js';
import { compileText, Dfa, piecesOf } from '../../automaton/index.js';
import { ANY_RUN, ONE_CHARACTER, type Where } from '../../notation/index.js';
import type { ChunkReader } from '../chunks/chunk-reader.js';
import { foldedReader } from '../chunks/folded-chunks.js';
import type { Filter, Growth, Matcher } from './matcher.js';
import { hasUntold } from '../chunks/verdicts.js';

/** Whether a hit may be from one place to another, besides what its position asks for. */
type Fits = (start: number, end: number) => boolean;

/** First hit of `needle` in `text` at or after `from`, as the position asked for allows; -1 if none. */
function findText(text: string, needle: string, where: Where, from: number, fits?: Fits): number {
  const only = (at: number): number => (!fits || fits(at, at + needle.length) ? at : -1);
  switch (where) {
    case 'anywhere': {
      let at = text.indexOf(needle, from);
      while (fits && at >= 0 && !fits(at, at + needle.length)) at = text.indexOf(needle, at + 1);
      return at;
    }
    case 'start of the cell':
      return from === 0 && text.startsWith(needle) ? only(0) : -1;
    case 'end of the cell': {
      const at = text.length - needle.length;
      return at >= from && text.endsWith(needle) ? only(at) : -1;
    }
    case 'whole cell':
      return from === 0 && text === needle ? 0 : -1;
    default:
      for (let at = text.indexOf(needle, from); at >= 0; at = text.indexOf(needle, at + 1)) {
        const end = at + needle.length;
        if (startsWord(text, at) && (where === 'start of a word' || endsWord(text, end)) && only(at) >= 0) return at;
      }
      return -1;
  }
}

/** The units that stand for the signs of a wildcard in its template. */
export const SIGNS = new RegExp(`[${ANY_RUN}${ONE_CHARACTER}]`, 'u');
const LOW_SURROGATE = /^[\udc00-\udfff]/;
const HIGH_SURROGATE = /[\ud800-\udbff]$/;

/** Tells whether a text begins or ends with what may be half of a pair elsewhere. */
export function hasHalves(text: string): boolean {
  return LOW_SURROGATE.test(text) || HIGH_SURROGATE.test(text);
}

/** No hit cuts a surrogate pair in two. */
function wholePairs(text: string): Fits {
  const cuts = (at: number): boolean =>
    at > 0 && at < text.length && HIGH_SURROGATE.test(text[at - 1]) && LOW_SURROGATE.test(text[at]);
  return (start, end) => !cuts(start) && !cuts(end);
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

/** Where more of the text makes fewer hits, which begin where they did. */
const GROWING: ReadonlySet<Where> = new Set(['anywhere', 'start of a word', 'start of the cell']);

/**
 * Tells how a text, or a wildcard, is called: what is typed after it goes on from there.
 * @param signs how the signs of a wildcard are meant, if they are: whether it minds the characters of the shown text
 */
export function textKey(
  text: string,
  where: Where,
  { case: letterCase, accents }: FoldSetting,
  signs?: { readonly shown: boolean },
): { key: string; growth?: Growth } {
  // A text may be typed, or pasted, that has for letters what stands for the signs of a wildcard.
  const kind = !signs && SIGNS.test(text) ? 'letters' : 'text';
  const head = `${kind} ${where} ${letterCase} ${accents} `;
  const key = head + text;
  if (!GROWING.has(where)) return { key };
  // A text that minds accents ends where a character does; so its beginnings do only if a letter follows for certain.
  const holds =
    accents === 'ignore'
      ? (length: number): boolean => !HIGH_SURROGATE.test(key[length - 1])
      : (length: number): boolean => !signs?.shown && key.charCodeAt(length) < 128;
  return { key, growth: { from: head.length + 1, holds } };
}

export class TextMatcher implements Matcher {
  readonly key: string;
  readonly growth?: Growth;
  readonly indexedRows?: Matcher['indexedRows'];
  readonly filter: Filter;
  private readonly needle: string;
  private readonly edges: boolean;
  private readonly halves: boolean;
  private readonly ends: EndsReader | undefined;
  private reader: ChunkReader | undefined;

  /** @param text not blank once folded */
  constructor(
    text: string,
    private readonly where: Where,
    private readonly setting: FoldSetting,
  ) {
    this.needle = fold(text, setting);
    ({ key: this.key, growth: this.growth } = textKey(this.needle, where, setting));
    this.edges = setting.accents === 'respect';
    this.halves = hasHalves(this.needle);
    this.ends = EndsReader.of(this.needle, where, setting);
    const loose = setting.case === 'ignore' && !this.edges;
    const pieces = piecesOf(text).map((piece) => [piece]);
    this.filter = { pieces, exact: loose && where === 'anywhere' && pieces.length === 1 && !this.halves };
    // Where words begin and end is told by their tokens.
    if (loose && (where === 'start of a word' || where === 'whole word') && !this.needle.includes(' ') && !this.halves)
      this.indexedRows = (column) => this.rowsOfWords(column);
  }

  private rowsOfWords({ vocabulary, rowCount }: ColumnSegment): Bits | undefined {
    const { needle, where } = this;
    const { tokens } = vocabulary;
    const hits: number[] = [];
    const found = vocabulary.tokensContaining(needle);
    for (let i = 0; i < found.length; i++)
      if (findText(tokens.at(found[i]), needle, where, 0) >= 0) hits.push(found[i]);
    if (hits.length === 0) return undefined;
    const rows = emptyBits(rowCount);
    vocabulary.addAllRows(hits, rows);
    return rows;
  }

  judgesAll({ chunks }: ColumnSegment): boolean {
    return this.ends?.tellsAll(chunks) === true;
  }

  judge(column: ColumnSegment, asked: WholeBytes): void {
    // A judging that goes on has been through it.
    if (this.ends && !hasUntold(asked) && this.ends.judge(column.chunks, asked)) return;
    this.reader ??= foldedReader(
      new Dfa(compileText(this.needle, this.where, this.edges)),
      this.setting,
      this.edges ? 'folded' : 'none',
    );
    this.reader.judge(column, asked, (cell) => this.test(cell));
  }

  /** Gives what hits in a folded text have to be like; undefined if they can be anything. */
  private fits(text: string): Fits | undefined {
    // With accents respected a hit begins and ends where a character does.
    const starts = this.edges ? characterStarts(text) : undefined;
    if (starts) return (start, end) => starts[start] === 1 && (end >= text.length || starts[end] === 1);
    return this.halves ? wholePairs(text) : undefined;
  }

  test(cell: Cell): boolean {
    const { needle, where } = this;
    const hits = (face: string): boolean => findText(face, needle, where, 0, this.fits(face)) >= 0;
    const text = cell.folded(this.setting);
    return text.includes(FACE_BREAK) ? text.split(FACE_BREAK).some(hits) : hits(text);
  }

  spans(cell: Cell): Span[] {
    const { shown } = cell;
    // In even text every unit folds to one in its place.
    const even = isEven(shown);
    const folded = even ? undefined : foldWithOffsets(shown, this.setting);
    const spans = this.spansIn(folded?.text ?? fold(shown, this.setting));
    if (spans.length > 0) return folded ? sourceSpans(folded, spans) : spans;
    return this.test(cell) ? wholeShown(cell) : [];
  }

  /** Hits in a folded text, one after the other. */
  private spansIn(text: string): Span[] {
    const { needle, where } = this;
    const fits = this.fits(text);
    const spans: Span[] = [];
    for (let at = findText(text, needle, where, 0, fits); at >= 0;) {
      spans.push({ start: at, end: at + needle.length });
      at = findText(text, needle, where, at + needle.length, fits);
    }
    return spans;
  }
}

/** Marks the whole shown text for a hit in the plain text only, since that is what the plain text stands for. */
export function wholeShown(cell: Cell): Span[] {
  const shown = cell.shown;
  return shown === '' ? [] : [{ start: 0, end: shown.length }];
}

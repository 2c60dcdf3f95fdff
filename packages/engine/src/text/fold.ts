/**
 * Folding: two texts that should count as the same become the same string. Cells and keywords go through the same
 * function, so that comparing is plain string work from there on.
 *
 * Accents ignored: decompose (NFKD), drop combining marks, spell out the few letters that do not decompose. Accents
 * respected: compose (NFC), so that the two ways to write `é` are one. Case ignored: full Unicode case folding. In the
 * `cell` form every kind of space, dash and quote becomes its plain one, runs of spaces become one, and the ends are
 * trimmed; the `pattern` form leaves those signs as they are.
 *
 * Source: Unicode Standard, 3.13 Default Case Algorithms; UAX #15 Normalization Forms.
 */
import { isCombiningMark, isSpace, plainSign } from './characters.js';

export type Care = 'ignore' | 'respect';

export interface FoldSetting {
  readonly case: Care;
  readonly accents: Care;
}

export const LOOSE: FoldSetting = { case: 'ignore', accents: 'ignore' };

/** Letters that mean a plain letter to a reader but do not decompose to one. */
const SPELT_OUT: Readonly<Record<string, string>> = {
  ø: 'o',
  Ø: 'O',
  ł: 'l',
  Ł: 'L',
  đ: 'd',
  Đ: 'D',
  ð: 'd',
  Ð: 'D',
  þ: 'th',
  Þ: 'TH',
  æ: 'ae',
  Æ: 'AE',
  œ: 'oe',
  Œ: 'OE',
  ß: 'ss',
  ẞ: 'SS',
  ı: 'i',
};

const ASCII = /^[\x00-\x7f]*$/;
const UNEVEN_SPACE = /^[ \t-\r]|[\t-\r]| {2}| $/;

/** True if every UTF-16 unit is below 128. */
export function isAscii(text: string): boolean {
  return ASCII.test(text);
}

/** True for ASCII text whose `cell` form differs from itself by case only. */
export function isEven(text: string): boolean {
  return ASCII.test(text) && !UNEVEN_SPACE.test(text);
}

/**
 * Full case folding of one code point. `lower(upper(lower(c)))` equals the F and C mappings of CaseFolding.txt but for
 * the dotless i, which folds to itself.
 */
export function foldCase(character: string): string {
  if (character === 'ı') return character;
  let folded = '';
  for (const upper of character.toLowerCase().toUpperCase()) folded += upper.toLowerCase();
  return folded;
}

/** Decompose, drop combining marks, spell out; case is kept. One code point in, any number out. */
function foldAccents(character: string): string {
  let folded = '';
  for (const part of character.normalize('NFKD')) {
    if (!isCombiningMark(part.codePointAt(0)!)) folded += SPELT_OUT[part] ?? part;
  }
  return folded;
}

function foldCluster(cluster: string, setting: FoldSetting): string {
  if (setting.accents === 'ignore') {
    let folded = '';
    for (const character of cluster) folded += foldAccents(character);
    if (setting.case === 'respect') return folded;
    let lowered = '';
    for (const character of folded) lowered += foldAccents(foldCase(character));
    return lowered;
  }
  const composed = cluster.normalize('NFC');
  if (setting.case === 'respect') return composed;
  let lowered = '';
  for (const character of composed) lowered += foldCase(character);
  return lowered.normalize('NFC');
}

/**
 * Gives a character as a pattern sees it: accents folded or composed, case kept, since what a class escape means must not
 * change. Only a character whose folded case is several (`ß`) is spelt out if case is ignored, so that `ss` finds it.
 */
export function foldForPatternCharacter(character: string, setting: FoldSetting): string {
  const folded = setting.accents === 'ignore' ? foldAccents(character) : character.normalize('NFC');
  if (setting.case === 'respect') return folded;
  let spelt = '';
  for (const one of folded) {
    const lower = foldCase(one);
    spelt += lower.length > (lower.codePointAt(0)! > 0xffff ? 2 : 1) ? lower : one;
  }
  return spelt;
}

function foldClusterForPattern(cluster: string, setting: FoldSetting): string {
  const source = setting.accents === 'ignore' ? cluster : cluster.normalize('NFC');
  let folded = '';
  for (const character of source) folded += foldForPatternCharacter(character, setting);
  return folded;
}

const CLUSTERS_REMEMBERED = 20_000;

type FoldOne = (cluster: string, setting: FoldSetting) => string;

/** Makes a `foldOne` that keeps what it made of the clusters that came lately. */
function remembering(foldOne: FoldOne): FoldOne {
  const bySetting = [0, 1, 2, 3].map(() => new Map<string, string>());
  return (cluster, setting) => {
    const remembered = bySetting[(setting.case === 'respect' ? 1 : 0) + (setting.accents === 'respect' ? 2 : 0)];
    let folded = remembered.get(cluster);
    if (folded === undefined) {
      folded = foldOne(cluster, setting);
      if (remembered.size >= CLUSTERS_REMEMBERED) remembered.clear();
      remembered.set(cluster, folded);
    }
    return folded;
  };
}

const foldedCluster = remembering(foldCluster);
const foldedForPattern = remembering(foldClusterForPattern);

function isJamo(codePoint: number): boolean {
  return codePoint >= 0x1100 && codePoint <= 0x11ff;
}

/** End of the cluster that starts at `from`: a code point with the combining marks (or the Hangul jamo) after it. */
function clusterEnd(text: string, from: number): number {
  let codePoint = text.codePointAt(from)!;
  let at = from + (codePoint > 0xffff ? 2 : 1);
  const jamo = isJamo(codePoint);
  while (at < text.length) {
    codePoint = text.codePointAt(at)!;
    if (codePoint < 0x300 || !(isCombiningMark(codePoint) || (jamo && isJamo(codePoint)))) break;
    at += codePoint > 0xffff ? 2 : 1;
  }
  return at;
}

/** Folded text, with the place in the source of each of its UTF-16 units. */
export interface Folded {
  readonly text: string;
  /** Source offset at which the cluster of unit `i` starts. */
  readonly starts: Uint32Array;
  /** Source offset at which the cluster of unit `i` ends; always past its combining marks. */
  readonly ends: Uint32Array;
}

class FoldedBuilder {
  private text = '';
  private readonly starts: number[] = [];
  private readonly ends: number[] = [];
  private space: { start: number; end: number } | undefined;

  constructor(private readonly evenSigns: boolean) {}

  add(folded: string, start: number, end: number): void {
    for (let i = 0; i < folded.length;) {
      const codePoint = folded.codePointAt(i)!;
      const units = codePoint > 0xffff ? 2 : 1;
      if (this.evenSigns && isSpace(codePoint)) {
        if (this.text !== '') this.space = { start: this.space?.start ?? start, end };
      } else {
        const sign = this.evenSigns ? plainSign(codePoint) : codePoint;
        if (this.space) this.put(' ', this.space.start, this.space.end);
        this.space = undefined;
        this.put(String.fromCodePoint(sign), start, end);
      }
      i += units;
    }
  }

  /** Does what `add` does, of an ASCII letter or sign that is no space. */
  addPlain(unit: number, at: number): void {
    if (this.space) this.put(' ', this.space.start, this.space.end);
    this.space = undefined;
    this.text += String.fromCharCode(unit);
    this.starts.push(at);
    this.ends.push(at + 1);
  }

  private put(piece: string, start: number, end: number): void {
    this.text += piece;
    for (let i = 0; i < piece.length; i++) {
      this.starts.push(start);
      this.ends.push(end);
    }
  }

  done(): Folded {
    return { text: this.text, starts: Uint32Array.from(this.starts), ends: Uint32Array.from(this.ends) };
  }
}

/** Makes the folded form of a text in which every unit stays where it is. */
function inPlace(text: string): Folded {
  const starts = new Uint32Array(text.length);
  const ends = new Uint32Array(text.length);
  for (let i = 0; i < text.length; i++) {
    starts[i] = i;
    ends[i] = i + 1;
  }
  return { text, starts, ends };
}

function build(text: string, setting: FoldSetting, forPattern: boolean): Folded {
  if (forPattern && ASCII.test(text)) return inPlace(text);
  if (!forPattern && isEven(text)) return inPlace(setting.case === 'ignore' ? text.toLowerCase() : text);
  const builder = new FoldedBuilder(!forPattern);
  const foldOne = forPattern ? foldedForPattern : foldedCluster;
  const lowers = !forPattern && setting.case === 'ignore';
  for (let at = 0; at < text.length;) {
    const unit = text.charCodeAt(at);
    // Most letters of most texts are ASCII, and by themselves.
    if (unit > 0x20 && unit < 0x7f && !(text.charCodeAt(at + 1) >= 0x300)) {
      builder.addPlain(lowers && unit >= 0x41 && unit <= 0x5a ? unit + 32 : unit, at++);
      continue;
    }
    const end = clusterEnd(text, at);
    builder.add(foldOne(text.slice(at, end), setting), at, end);
    at = end;
  }
  return builder.done();
}

/**
 * Folds a cell or a keyword. Idempotent.
 * @returns the folded text; empty if nothing but spaces (or, accents ignored, combining marks) was there
 */
export function fold(text: string, setting: FoldSetting = LOOSE): string {
  if (ASCII.test(text)) {
    const even = UNEVEN_SPACE.test(text) ? text.replace(/[ \t-\r]+/g, ' ').trim() : text;
    return setting.case === 'ignore' ? even.toLowerCase() : even;
  }
  let out = '';
  let space = false;
  for (let at = 0; at < text.length;) {
    const unit = text.charCodeAt(at);
    const next = at + 1 < text.length ? text.charCodeAt(at + 1) : 0;
    let folded: string;
    if (unit < 0x80 && next < 0x300) {
      folded = setting.case === 'ignore' && unit >= 0x41 && unit <= 0x5a ? String.fromCharCode(unit + 32) : text[at];
      at++;
    } else {
      const end = clusterEnd(text, at);
      folded = foldedCluster(text.slice(at, end), setting);
      at = end;
    }
    for (let i = 0; i < folded.length;) {
      const codePoint = folded.codePointAt(i)!;
      if (isSpace(codePoint)) {
        space = out !== '';
      } else {
        if (space) out += ' ';
        space = false;
        const sign = plainSign(codePoint);
        out += sign < 0x80 ? String.fromCharCode(sign) : String.fromCodePoint(sign);
      }
      i += codePoint > 0xffff ? 2 : 1;
    }
  }
  return out;
}

/** Does what `fold` does, and where each unit of the result came from. */
export function foldWithOffsets(text: string, setting: FoldSetting = LOOSE): Folded {
  return build(text, setting, false);
}

/** Folds accents (or composes) and leaves spaces, quotes and dashes as they are, and all but spelt-out case: the text a pattern runs over. */
export function foldForPattern(text: string, setting: FoldSetting): string {
  if (ASCII.test(text)) return text;
  let out = '';
  for (let at = 0; at < text.length;) {
    const end = clusterEnd(text, at);
    const isPlain = end === at + 1 && text.charCodeAt(at) < 0x80;
    out += isPlain ? text[at] : foldedForPattern(text.slice(at, end), setting);
    at = end;
  }
  return out;
}

/** Does what `foldForPattern` does, with offsets. */
export function foldForPatternWithOffsets(text: string, setting: FoldSetting): Folded {
  return build(text, setting, true);
}

/**
 * The classes of single code points, as far as searching cares: part of a word, a combining mark, a space, a dash, a
 * quote. Answers are remembered in one table, because folding a million cells asks a hundred million times.
 *
 * Source: Unicode Standard, properties L, Nd, M, White_Space and Dash.
 */

const WORD = 1;
const MARK = 2;
const SPACE = 4;
const DASH = 8;
const SINGLE_QUOTE = 16;
const DOUBLE_QUOTE = 32;
const KNOWN = 128;

const table = new Uint8Array(0x110000);

const SINGLE_QUOTES = "'\u2018\u2019\u201a\u201b";
const DOUBLE_QUOTES = '"\u201c\u201d\u201e\u201f';

function classify(codePoint: number): number {
  const character = String.fromCodePoint(codePoint);
  let bits = KNOWN;
  if (/[\p{L}\p{Nd}\p{M}]/u.test(character)) bits |= WORD;
  if (/\p{M}/u.test(character)) bits |= MARK;
  if (/[\p{White_Space}\ufeff]/u.test(character)) bits |= SPACE;
  if (/\p{Dash}/u.test(character)) bits |= DASH;
  if (SINGLE_QUOTES.includes(character)) bits |= SINGLE_QUOTE;
  if (DOUBLE_QUOTES.includes(character)) bits |= DOUBLE_QUOTE;
  table[codePoint] = bits;
  return bits;
}

function bitsOf(codePoint: number): number {
  return table[codePoint] || classify(codePoint);
}

/** A letter, a digit or a combining mark: what words are made of. */
export function isWordCharacter(codePoint: number): boolean {
  return (bitsOf(codePoint) & WORD) !== 0;
}

/** A combining mark of any sort (Unicode category M). */
export function isCombiningMark(codePoint: number): boolean {
  return (bitsOf(codePoint) & MARK) !== 0;
}

/** Any kind of space, line breaks, tabs and no-break spaces included. */
export function isSpace(codePoint: number): boolean {
  return (bitsOf(codePoint) & SPACE) !== 0;
}

/** The one sign that stands for all of a family: a space, a hyphen, a straight quote; or the code point itself. */
export function plainSign(codePoint: number): number {
  const bits = bitsOf(codePoint);
  if (bits & SPACE) return 0x20;
  if (bits & DASH) return 0x2d;
  if (bits & SINGLE_QUOTE) return 0x27;
  if (bits & DOUBLE_QUOTE) return 0x22;
  return codePoint;
}

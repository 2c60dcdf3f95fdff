/** Keywords as they are typed, and what of them can be looked up. */
import type { Keyword, TextReading } from '../notation/index.js';

/** A keyword that is asked to be there. */
export interface PlacedKeyword {
  readonly keyword: Keyword;
  readonly strand: number;
}

/** A keyword without the signs around it, as it can be looked up, and where that stands in the strand. */
export interface Bare {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

/** The part of a keyword that near spellings and other signs can be found for; undefined for patterns and wildcards. */
export function bareOf(keyword: Keyword, reading: TextReading, strandText: string): Bare | undefined {
  const { start, end } = keyword;
  if (reading === 'plain text') {
    const text = strandText.slice(start, end);
    const from = start + text.length - text.trimStart().length;
    return { text: text.trim(), start: from, end: from + text.trim().length };
  }
  if (reading !== 'words') return undefined;
  // What is scoped, asked to be the whole cell, or quoted, is looked up without that.
  const match = /^(?:(?:"[^"]*"|[^\s":()]+):\s*)?[=~]?(?:["“”]([^"“”]*)["“”]?|([^\s"“”]*))$/su.exec(keyword.text);
  const text = match?.[1] ?? match?.[2] ?? keyword.text;
  if (/[*?/\\<>|]/.test(text) || text.trim() === '') return undefined;
  const from = start + keyword.text.lastIndexOf(text);
  const quoted = match?.[1] !== undefined;
  const before = quoted ? 1 : 0;
  return { text, start: from - before, end: Math.min(end, from + text.length + before) };
}

/** A text as a word, or in quotes where it would be read as something else. */
export function quoted(text: string, reading: TextReading): string {
  return reading === 'words' && !/^[\p{L}\p{N}\p{M}]+(?:[-_./#][\p{L}\p{N}\p{M}]+)*$/u.test(text) ? `"${text}"` : text;
}

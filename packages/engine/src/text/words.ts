/** Words of a text: longest runs of letters, digits and combining marks, and the boundaries between them. */
import { isWordCharacter } from './characters.js';

function wordCharacterAt(text: string, at: number): boolean {
  return isWordCharacter(text.codePointAt(at)!);
}

function wordCharacterBefore(text: string, at: number): boolean {
  let codePoint = text.charCodeAt(at - 1);
  if (codePoint >= 0xdc00 && codePoint <= 0xdfff && at >= 2) {
    const pair = text.codePointAt(at - 2)!;
    if (pair > 0xffff) codePoint = pair;
  }
  return isWordCharacter(codePoint);
}

/** A hit may begin here: with a non-word character, or where a word begins. */
export function startsWord(text: string, at: number): boolean {
  return at >= text.length || !wordCharacterAt(text, at) || at === 0 || !wordCharacterBefore(text, at);
}

/** A hit may end here: after a non-word character, or where a word ends. */
export function endsWord(text: string, at: number): boolean {
  return at === 0 || !wordCharacterBefore(text, at) || at >= text.length || !wordCharacterAt(text, at);
}

export interface Span {
  readonly start: number;
  readonly end: number;
}

/** The words of a text in order, as UTF-16 ranges. */
export function words(text: string): Span[] {
  const found: Span[] = [];
  let start = -1;
  for (let at = 0; at < text.length;) {
    const codePoint = text.codePointAt(at)!;
    if (isWordCharacter(codePoint)) {
      if (start < 0) start = at;
    } else if (start >= 0) {
      found.push({ start, end: at });
      start = -1;
    }
    at += codePoint > 0xffff ? 2 : 1;
  }
  if (start >= 0) found.push({ start, end: text.length });
  return found;
}

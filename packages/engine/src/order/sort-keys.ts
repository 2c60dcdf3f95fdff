/**
 * Sort keys: strings whose plain order is the collation's first level, for texts of ASCII. A million texts are sorted by
 * such keys in a fraction of the time that asking the collation pair by pair takes; where keys are equal it is asked.
 *
 * Source: UTS #10, 7 (forming sort keys); weights of single characters are read off the collation itself.
 */
import { isAscii } from '../text/index.js';

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** Weights of printable ASCII characters: equal for letters that differ by case. Digits weigh as their run does. */
const weights = ((): string[] => {
  const characters = Array.from({ length: 95 }, (_, i) => String.fromCharCode(i + 32)).sort(collator.compare);
  const table: string[] = [];
  let weight = 1;
  characters.forEach((character, i) => {
    if (i > 0 && collator.compare(characters[i - 1], character) !== 0) weight++;
    table[character.charCodeAt(0)] = String.fromCharCode(weight);
  });
  return table;
})();

const FIRST_DIGIT = weights[0x30];

/** @returns undefined for a text whose place only the collation knows */
export function sortKey(text: string): string | undefined {
  if (!isAscii(text)) return undefined;
  let key = '';
  for (let i = 0; i < text.length;) {
    const unit = text.charCodeAt(i);
    if (unit >= 0x30 && unit <= 0x39) {
      let end = i + 1;
      while (end < text.length && text.charCodeAt(end) >= 0x30 && text.charCodeAt(end) <= 0x39) end++;
      let first = i;
      while (first < end - 1 && text.charCodeAt(first) === 0x30) first++;
      // A longer number is a larger one; the collation splits runs of more than 254 digits.
      if (end - first > 250) return undefined;
      key += FIRST_DIGIT + String.fromCharCode(end - first) + text.slice(first, end);
      i = end;
    } else {
      const weight = weights[unit];
      if (weight === undefined) return undefined;
      key += weight;
      i++;
    }
  }
  return key;
}

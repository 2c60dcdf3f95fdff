/**
 * Names of people as they are compared, so that nobody can be called what looks like another: case, accents that are written
 * otherwise, widths, spaces and signs that are not seen do not count, and neither does the alphabet that a letter is taken from.
 * Source: Unicode Technical Standard 39, 4 (skeletons), for the letters of Greek and Cyrillic that look like Latin ones.
 */

/** Letters of other alphabets, and the Latin ones that they look like. */
const LOOKS_LIKE: Readonly<Record<string, string>> = Object.fromEntries(
  [...'аaвbеeкkмmнhоoрpсcтtуyхxіiјjѕsԁdԛqԝwαaβbεeηnικkνvοoρpτtυuχxγyωw'.matchAll(/(.)([a-z])/gu)].map(
    ([, from, to]) => [from, to],
  ),
);

/** A name as it is kept: composed, its spaces single, and without what is not seen or turns the writing around. */
export function tidyName(name: string): string {
  return name
    .normalize('NFC')
    .replace(/[\p{Cc}\p{Cf}\p{Co}\p{Cn}]/gu, '')
    .replace(/\s+/gu, ' ')
    .trim();
}

/** The key that two names share where they look the same. */
export function nameKey(name: string): string {
  const folded = tidyName(name).normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  return [...folded]
    .map((letter) => LOOKS_LIKE[letter] ?? letter)
    .join('')
    .replace(/[l1|]/g, 'i')
    .replace(/0/g, 'o');
}

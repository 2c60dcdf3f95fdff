/** Units beyond Latin letters, of which one may become eighteen (U+FDFA, by NFKD); a Latin one becomes four at most. */
const BEYOND_LATIN = 0x250;

/** Tells a bound of how many units a text can have when it is folded, however that is done, without folding it. */
export function mostFolded(text: string): number {
  let most = 0;
  for (let i = 0; i < text.length; i++) {
    const unit = text.charCodeAt(i);
    most += unit < 0x80 ? 1 : unit < BEYOND_LATIN ? 4 : 18;
  }
  return most;
}

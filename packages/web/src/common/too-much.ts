/** Letters that a box takes; what the server takes of one strand is less, and it says so of what is between. */
const MOST_TYPED = 20_000;

/** Why a text is not put into a box; empty if it is. */
export function tooMuch(text: string): string {
  if (text.length <= MOST_TYPED) return '';
  const [most, has] = [MOST_TYPED, text.length].map((count) => count.toLocaleString());
  return `A box takes ${most} letters at most; this was ${has}, and was not put in. What was there before is there still.`;
}

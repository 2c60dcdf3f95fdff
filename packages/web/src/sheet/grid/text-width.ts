/** How wide a text is at most, or likely, told from its letters: to measure each would take longer than to draw it. */

/** Wider than most characters are, in pixels: a longer text may be cut off. */
const CHARACTER = 6;
/** The widest that a sign of ASCII is in a font that rows may be drawn in, and that those are which most texts are made of, in pixels. */
const WIDEST = 14;
const WIDEST_USUAL = 9;
const USUAL = /^[a-ln-vx-z0-9 .,:;'()/-]$/;
/** Pixels of a cell's width that its text has not. The same in the styles. */
const SIDES = 16;

/** The most that each character of ASCII is wide, in pixels, by its code; nothing for those that are not drawn. */
const WIDTHS = Uint8Array.from({ length: 0x7f }, (_, code) =>
  code < 0x20 ? 0 : USUAL.test(String.fromCharCode(code)) ? WIDEST_USUAL : WIDEST,
);

/** Tells whether a text may be cut off in a cell, so that it gets a title. @param width of the cell, in pixels */
export function mayBeCut(text: string, width: number): boolean {
  return text.length * CHARACTER > width;
}

/** Tells whether a text is in a cell for sure, so that nothing has to cut it off. @param width of the cell, in pixels */
export function surelyFits(text: string, width: number): boolean {
  let room = width - SIDES;
  if (text.length * WIDEST_USUAL > room) return false;
  for (let i = 0; i < text.length && room >= 0; i++) {
    const widest = WIDTHS[text.charCodeAt(i)];
    if (!widest) return false;
    room -= widest;
  }
  return room >= 0;
}

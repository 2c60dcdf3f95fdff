/**
 * Cells that a spreadsheet program would run as a formula are kept from it by an apostrophe before them, which such programs take
 * for "this is text". Source: OWASP, CSV Injection.
 */

/** The beginnings by which a cell is taken for a formula; the wide ones are in some languages' programs. */
const FORMULA = /^[=+\-@\t\r\n\uff1d\uff0b\uff0d\uff20]/;
/** A number by itself is none, whatever its sign. */
const NUMBER = /^[+-]?(?:\d+(?:[.,]\d+)*|[.,]\d+)(?:[eE][+-]?\d+)?$/;

/** A cell that nothing is run of; the same where it looks like no formula. */
export function safeCell(text: string): string {
  return FORMULA.test(text) && !NUMBER.test(text) ? `'${text}` : text;
}

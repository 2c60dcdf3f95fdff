/**
 * The order of texts: language collation, with numbers inside text by their value (`tag 9` before `tag 10`). A choice
 * column may have an order of its own; values that it does not name come after those it does.
 *
 * Source: UTS #10 Unicode Collation Algorithm, through Intl.Collator.
 */
import { fold } from '../text/index.js';

const collator = new Intl.Collator('en', { numeric: true });

/** Negative, zero or positive, as for sorting. Zero only for texts that the language does not tell apart. */
export function compareTexts(a: string, b: string, order?: readonly string[]): number {
  if (order && order.length > 0) {
    const [placeA, placeB] = [placeIn(order, a), placeIn(order, b)];
    if (placeA !== placeB) return placeA - placeB;
  }
  return Math.sign(collator.compare(a.trim(), b.trim()));
}

const orders = new WeakMap<readonly string[], Map<string, number>>();

/** Place in a custom order, or past its end. */
function placeIn(order: readonly string[], text: string): number {
  let places = orders.get(order);
  if (!places) {
    places = new Map(order.map((value, i) => [fold(value), i]));
    orders.set(order, places);
  }
  return places.get(fold(text)) ?? order.length;
}

/** A half of a surrogate pair without the other. */
export const HALF_LETTER = /[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/**
 * PostgreSQL keeps neither a NUL nor half of a surrogate pair in a text. Such a text can be searched for, but not kept.
 *
 * Source: PostgreSQL documentation, 8.3 and 8.14.1.
 */
export function isStorable(text: string): boolean {
  return !text.includes('\0') && text.search(HALF_LETTER) < 0;
}

/** Does what `isStorable` does, of every text in a value that came as JSON, names of properties too. */
export function isAllStorable(value: unknown): boolean {
  if (typeof value === 'string') return isStorable(value);
  if (Array.isArray(value)) return value.every(isAllStorable);
  if (value === null || typeof value !== 'object') return true;
  return Object.entries(value).every(([key, one]) => isStorable(key) && isAllStorable(one));
}

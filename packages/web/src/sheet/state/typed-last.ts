/**
 * The text typed in the moment before a page was reloaded. The browser asks for the address as it was when the reload began, so
 * that what is put into it since is lost; it is kept for the page that comes instead.
 */
const KEY = 'usual-needle typed last';
/**
 * A page's time begins when it is asked for, while the one before it is still there. What was put into the address shortly before that
 * may not have come through to the browser yet; in milliseconds.
 */
const ON_ITS_WAY_MS = 5_000;

interface TypedLast {
  /** Address before, and with what was typed. */
  before: string;
  after: string;
  /** When it was put into the address, in milliseconds. */
  at: number;
}

export function keepTypedLast(before: string, after: string): void {
  try {
    const kept: TypedLast = { before, after, at: performance.timeOrigin + performance.now() };
    sessionStorage.setItem(KEY, JSON.stringify(kept));
  } catch {
    // Not allowed: then it is lost.
  }
}

/** The address is what it is for another reason than that: what was typed before does not come again. */
export function forgetTypedLast(): void {
  try {
    sessionStorage.removeItem(KEY);
  } catch {
    // Not allowed: then there is none.
  }
}

/**
 * The address to go on with after a reload, if what was typed was put into it too late for that; told once.
 * @param address the one that was reloaded
 */
export function typedLast(address: string): string | undefined {
  try {
    const kept = JSON.parse(sessionStorage.getItem(KEY) ?? 'null') as Partial<TypedLast> | null;
    sessionStorage.removeItem(KEY);
    const [navigation] = performance.getEntriesByType('navigation') as PerformanceNavigationTiming[];
    if (navigation?.type !== 'reload' || kept?.before !== address) return undefined;
    const late = typeof kept.at === 'number' && kept.at >= performance.timeOrigin - ON_ITS_WAY_MS;
    return late && typeof kept.after === 'string' ? kept.after : undefined;
  } catch {
    return undefined;
  }
}

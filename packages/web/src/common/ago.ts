const MINUTE = 60_000;
const HOUR = 60 * MINUTE;

/** Tells the day of a moment that may be to come: `23 Nov 2026`. */
export function day(moment: string): string {
  return new Date(moment).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' });
}

/** Tells when something happened, as one says it: `2 min ago`, `14:05`, `23 Nov`, `23 Nov 2025`. */
export function ago(moment: string, now = Date.now()): string {
  const then = new Date(moment);
  const passed = now - then.getTime();
  if (passed < MINUTE) return 'just now';
  if (passed < HOUR) return `${Math.floor(passed / MINUTE)} min ago`;
  const today = new Date(now);
  if (then.toDateString() === today.toDateString())
    return `today ${then.toLocaleTimeString(undefined, { hour: '2-digit', minute: '2-digit' })}`;
  const year = then.getFullYear() === today.getFullYear() ? {} : { year: 'numeric' as const };
  return then.toLocaleDateString('en-GB', { day: 'numeric', month: 'short', ...year });
}

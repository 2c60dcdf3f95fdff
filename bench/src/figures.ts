/** Sorted times and what is said of them. Milliseconds throughout. */
export interface Figures {
  readonly count: number;
  readonly p50: number;
  readonly p95: number;
  readonly worst: number;
}

export function figures(times: readonly number[]): Figures {
  const sorted = [...times].sort((a, b) => a - b);
  const at = (part: number): number => sorted[Math.min(sorted.length - 1, Math.floor(part * sorted.length))];
  return { count: sorted.length, p50: at(0.5), p95: at(0.95), worst: sorted[sorted.length - 1] };
}

export function line(name: string, { count, p50, p95, worst }: Figures): string {
  const ms = (value: number): string => value.toFixed(2).padStart(9);
  return `${name.padEnd(46)} n=${String(count).padStart(5)}  p50${ms(p50)}  p95${ms(p95)}  worst${ms(worst)} ms`;
}

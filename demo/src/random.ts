/** Seeded random choices, so that the demo is the same everywhere. Source: mulberry32 (T. Ettinger, public domain). */
export class Random {
  constructor(private state: number) {}

  /** 0 ≤ x < 1 */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) | 0;
    let t = Math.imul(this.state ^ (this.state >>> 15), 1 | this.state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  }

  /** A whole number from 0 to end-1. */
  below(end: number): number {
    return Math.floor(this.next() * end);
  }

  chance(probability: number): boolean {
    return this.next() < probability;
  }

  pick<T>(list: readonly T[]): T {
    return list[this.below(list.length)];
  }

  /** Earlier entries more often than later ones. */
  pickEarly<T>(list: readonly T[]): T {
    return list[Math.floor(this.next() ** 2 * list.length)];
  }

  digits(count: number): string {
    return Array.from({ length: count }, () => this.below(10)).join('');
  }

  letters(count: number): string {
    return Array.from({ length: count }, () => 'ABCDEFGHJKLMNPRSTUVWXYZ'[this.below(23)]).join('');
  }
}

/**
 * JSON (RFC 8259) as UTF-8, written piece by piece into bytes that go out as they are: of an answer's letters none is copied into an
 * object, or a string, first. What is written is what `JSON.stringify` gives.
 */

const QUOTE = 0x22;
const BACKSLASH = 0x5c;
/** Bytes that a writer has room for at first, and the most that it keeps room for. */
const USUAL_ROOM = 1 << 14;
const KEPT_ROOM = 1 << 20;
/** The most bytes that one UTF-16 unit takes: `\u001f`. */
const MOST_BYTES = 6;
/** The most bytes of UTF-8 that one takes. */
const MOST_UTF8 = 3;
const HEX = '0123456789abcdef';
/** The signs after the backslash, of units that have one. */
const SHORT: Readonly<Record<number, string>> = { 8: 'b', 9: 't', 10: 'n', 12: 'f', 13: 'r', 34: '"', 92: '\\' };

/** 1 for each unit that stands for itself in one byte. */
const PLAIN = Uint8Array.from({ length: 128 }, (_, unit) =>
  unit >= 0x20 && unit !== QUOTE && unit !== BACKSLASH ? 1 : 0,
);

function isHigh(unit: number): boolean {
  return unit >= 0xd800 && unit < 0xdc00;
}

function isLow(unit: number): boolean {
  return unit >= 0xdc00 && unit < 0xe000;
}

export class JsonWriter {
  private bytes: Uint8Array<ArrayBuffer> = new Uint8Array(USUAL_ROOM);
  private length = 0;

  private makeRoom(bytes: number): void {
    const least = this.length + bytes;
    if (least <= this.bytes.length) return;
    const before = this.bytes;
    this.bytes = new Uint8Array(Math.max(least, 2 * before.length));
    this.bytes.set(before.subarray(0, this.length));
  }

  /** Writes signs as they are. @param text ASCII */
  signs(text: string): void {
    this.makeRoom(text.length);
    const { bytes } = this;
    let at = this.length;
    for (let i = 0; i < text.length; i++) bytes[at++] = text.charCodeAt(i);
    this.length = at;
  }

  /** Writes a number, whole or not. */
  number(value: number): void {
    if (value < 0 || value > 999_999_999 || !Number.isInteger(value)) return this.value(value);
    this.makeRoom(10);
    const { bytes } = this;
    let digits = 1;
    for (let most = 10; value >= most; most *= 10) digits++;
    let left = value | 0;
    for (let at = this.length + digits - 1; at >= this.length; at--) {
      const tens = (left / 10) | 0;
      bytes[at] = 48 + left - tens * 10;
      left = tens;
    }
    this.length += digits;
  }

  numbers(values: ArrayLike<number>): void {
    this.signs('[');
    for (let i = 0; i < values.length; i++) {
      if (i > 0) this.signs(',');
      this.number(values[i]);
    }
    this.signs(']');
  }

  /** Writes a string, or a part of one: the units from `from` up to `to`. */
  string(text: string, from = 0, to = text.length): void {
    this.makeRoom(MOST_BYTES * (to - from) + 2);
    const { bytes } = this;
    let at = this.length;
    bytes[at++] = QUOTE;
    for (let i = from; i < to; i++) {
      const unit = text.charCodeAt(i);
      if (unit < 128 && PLAIN[unit] === 1) bytes[at++] = unit;
      else {
        const pair = isHigh(unit) && i + 1 < to && isLow(text.charCodeAt(i + 1));
        at = this.other(unit, pair ? text.charCodeAt(++i) : 0, at);
      }
    }
    bytes[at++] = QUOTE;
    this.length = at;
  }

  /** Writes a unit that is more than one byte. @param second the other half of a pair, else 0 @returns the place after it */
  private other(unit: number, second: number, at: number): number {
    const { bytes } = this;
    if (unit < 128) {
      bytes[at++] = BACKSLASH;
      const short = SHORT[unit] as string | undefined;
      if (short === undefined) return this.hex(unit, at);
      bytes[at++] = short.charCodeAt(0);
    } else if (unit < 0x800) {
      bytes[at++] = 0xc0 | (unit >>> 6);
      bytes[at++] = 0x80 | (unit & 63);
    } else if (second !== 0) {
      const codePoint = 0x10000 + ((unit - 0xd800) << 10) + (second - 0xdc00);
      bytes[at++] = 0xf0 | (codePoint >>> 18);
      bytes[at++] = 0x80 | ((codePoint >>> 12) & 63);
      bytes[at++] = 0x80 | ((codePoint >>> 6) & 63);
      bytes[at++] = 0x80 | (codePoint & 63);
    } else if (isHigh(unit) || isLow(unit)) {
      // Half of a pair has no UTF-8.
      bytes[at++] = BACKSLASH;
      return this.hex(unit, at);
    } else {
      bytes[at++] = 0xe0 | (unit >>> 12);
      bytes[at++] = 0x80 | ((unit >>> 6) & 63);
      bytes[at++] = 0x80 | (unit & 63);
    }
    return at;
  }

  private hex(unit: number, at: number): number {
    this.bytes[at++] = 0x75;
    for (let shift = 12; shift >= 0; shift -= 4) this.bytes[at++] = HEX.charCodeAt((unit >>> shift) & 15);
    return at;
  }

  /** Writes anything that JSON has; what is large, or comes often, is sooner written by the others. */
  value(value: unknown): void {
    this.written(JSON.stringify(value));
  }

  /** Writes the members of an object after those that were written of one: what `{"a":1` is followed by, its end included. */
  rest(members: object): void {
    this.signs(',');
    this.written(JSON.stringify(members).slice(1));
  }

  /** Writes JSON as it is. In it, what has no UTF-8 has been escaped. */
  private written(json: string): void {
    this.makeRoom(MOST_UTF8 * json.length);
    const { bytes } = this;
    let at = this.length;
    for (let i = 0; i < json.length; i++) {
      const unit = json.charCodeAt(i);
      if (unit < 128) bytes[at++] = unit;
      else at = this.other(unit, isHigh(unit) ? json.charCodeAt(++i) : 0, at);
    }
    this.length = at;
  }

  /** Gives what was written, in memory of its own; the writer is empty then. */
  taken(): Uint8Array<ArrayBuffer> {
    const taken = this.bytes.slice(0, this.length);
    this.clear();
    return taken;
  }

  /** Forgets what was written. Room that is more than usual is given back. */
  clear(): void {
    this.length = 0;
    if (this.bytes.length > KEPT_ROOM) this.bytes = new Uint8Array(USUAL_ROOM);
  }
}

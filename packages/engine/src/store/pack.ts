/**
 * Segments that are built, as bytes: numbers as they lie in memory, so that they are used where they are read to, and texts apart, so that
 * their bytes can be let go of. Things are read in the order in which they were written.
 *
 * Little endian, as every machine that runs this is; each array of numbers begins at a multiple of eight bytes, after two numbers
 * of four bytes: its bytes, and of a text how it is encoded.
 */

// Of the platform, wherever that is.
declare class TextEncoder {
  encode(text: string): Uint8Array<ArrayBuffer>;
}
declare class TextDecoder {
  constructor(label: string, options: { fatal: boolean; ignoreBOM: boolean });
  decode(bytes: Uint8Array): string;
}

type PackedNumbers = Uint8Array | Uint16Array | Uint32Array | Int32Array | Float64Array;

const ALIGNED = 8;
/** How a text is encoded: UTF-8, or its UTF-16 units where it has half a pair, which UTF-8 cannot say. */
const [UTF_8, UNITS] = [1, 2];

/** The bytes that are read are not those that were written. */
export class NotAPack extends Error {}

function bytesOf(numbers: PackedNumbers): Uint8Array {
  return new Uint8Array(numbers.buffer, numbers.byteOffset, numbers.byteLength);
}

export class PackWriter {
  /** The arrays of numbers, one after the other. What goes on being written to is copied; the rest is not. */
  readonly numberParts: Uint8Array[] = [];
  readonly textParts: Uint8Array[] = [];
  private readonly encoder = new TextEncoder();

  /** @param copied for what may change before it is on the disk */
  numbers(numbers: PackedNumbers, copied = false): void {
    this.head(numbers.byteLength, 0);
    const bytes = bytesOf(numbers);
    if (numbers.byteLength > 0) this.numberParts.push(copied ? bytes.slice() : bytes);
    const over = numbers.byteLength % ALIGNED;
    if (over > 0) this.numberParts.push(new Uint8Array(ALIGNED - over));
  }

  count(count: number): void {
    this.numbers(Float64Array.of(count));
  }

  text(text: string): void {
    const whole = text.isWellFormed();
    const bytes = whole ? this.encoder.encode(text) : bytesOf(unitsOf(text));
    this.head(bytes.byteLength, whole ? UTF_8 : UNITS);
    this.textParts.push(bytes);
  }

  private head(bytes: number, encoding: number): void {
    this.numberParts.push(bytesOf(Uint32Array.of(bytes, encoding)));
  }
}

/** The UTF-16 units of a text, one by one. An iterator would go by code points, of which there are fewer than units. */
function unitsOf(text: string): Uint16Array {
  const units = new Uint16Array(text.length);
  for (let at = 0; at < units.length; at++) units[at] = text.charCodeAt(at);
  return units;
}

export class PackReader {
  private at = 0;
  private textAt = 0;
  private readonly decoder = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

  /** @param numbers stays in use for what is read from it @param texts is not needed any more once all is read */
  constructor(
    private readonly numbers: ArrayBuffer,
    private readonly texts: Uint8Array,
  ) {}

  bytes(): Uint8Array<ArrayBuffer> {
    const { bytes } = this.head();
    return new Uint8Array(this.numbers, this.take(bytes), bytes);
  }

  u16(): Uint16Array<ArrayBuffer> {
    const { bytes } = this.head();
    return new Uint16Array(this.numbers, this.take(bytes), bytes / 2);
  }

  u32(): Uint32Array<ArrayBuffer> {
    const { bytes } = this.head();
    return new Uint32Array(this.numbers, this.take(bytes), bytes / 4);
  }

  f64(): Float64Array<ArrayBuffer> {
    const { bytes } = this.head();
    return new Float64Array(this.numbers, this.take(bytes), bytes / 8);
  }

  count(): number {
    return this.f64()[0];
  }

  text(): string {
    const { bytes, encoding } = this.head();
    if (this.textAt + bytes > this.texts.byteLength) throw new NotAPack('a text is cut off');
    const piece = this.texts.subarray(this.textAt, (this.textAt += bytes));
    if (encoding === UTF_8) return this.decoder.decode(piece);
    const units = new Uint16Array(piece.slice().buffer);
    let text = '';
    for (let i = 0; i < units.length; i += 4_096) text += String.fromCharCode(...units.subarray(i, i + 4_096));
    return text;
  }

  /** True once all has been read. */
  get atEnd(): boolean {
    return this.at === this.numbers.byteLength && this.textAt === this.texts.byteLength;
  }

  private head(): { bytes: number; encoding: number } {
    const [bytes, encoding] = new Uint32Array(this.numbers, this.take(8), 2);
    return { bytes, encoding };
  }

  private take(bytes: number): number {
    const { at } = this;
    this.at += Math.ceil(bytes / ALIGNED) * ALIGNED;
    if (this.at > this.numbers.byteLength) throw new NotAPack('numbers are cut off');
    return at;
  }
}

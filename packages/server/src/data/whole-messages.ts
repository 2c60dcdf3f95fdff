/**
 * The messages of one statement as one. The socket gives PGlite each message of the extended protocol by itself; where one of
 * them fails, PGlite takes the next ones for a new beginning, fails at them, and the connection is lost to everybody. Given
 * all of them up to `Sync` at once, it does as PostgreSQL does: after an error it passes over the rest. Whatever is thrown
 * nevertheless becomes an error message of that statement, and the connection goes on.
 *
 * Source: PostgreSQL documentation, 55.2.3 (extended query) and 55.7 (message formats).
 */
import type { PGlite } from '@electric-sql/pglite';

type Options = { readonly onRawData: (data: Uint8Array) => void };

const SYNC = 0x53;
const TERMINATE = 0x58;
/** Parse, Bind, Describe, Execute, Close, Flush: what comes before a Sync. */
const EXTENDED = new Set([...'PBDECH'].map((type) => type.charCodeAt(0)));

function joined(parts: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

/** ErrorResponse and ReadyForQuery. */
function failure(message: string): Uint8Array {
  const text = new TextEncoder().encode(`SERROR\0VERROR\0CXX000\0M${message}\0\0`);
  const error = new Uint8Array(5 + text.length);
  error[0] = 0x45;
  new DataView(error.buffer).setInt32(1, 4 + text.length);
  error.set(text, 5);
  return joined([error, Uint8Array.of(0x5a, 0, 0, 0, 5, 0x49)]);
}

export class WholeMessages {
  private parts: Uint8Array[] = [];

  constructor(private readonly db: PGlite) {}

  /** The database, but for how it takes messages. */
  get facade(): PGlite {
    const execute = (message: Uint8Array, options: Options): Promise<void> => this.execute(message, options);
    return new Proxy(this.db, {
      get: (db, property) => {
        if (property === 'execProtocolRawStream') return execute;
        const value: unknown = Reflect.get(db, property, db);
        return typeof value === 'function' ? (value as () => unknown).bind(db) : value;
      },
    });
  }

  private async execute(message: Uint8Array, options: Options): Promise<void> {
    const [type] = message;
    if (type === TERMINATE) {
      this.parts = [];
      return;
    }
    if (EXTENDED.has(type)) {
      this.parts.push(message);
      return;
    }
    const whole = type === SYNC ? joined([...this.parts, message]) : message;
    this.parts = [];
    try {
      await this.db.execProtocolRawStream(whole, options);
    } catch (error) {
      options.onRawData(failure(error instanceof Error ? error.message : String(error)));
    }
  }
}

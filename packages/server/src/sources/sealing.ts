/**
 * Secrets of sources, sealed (AES-256-GCM, NIST SP 800-38D) by a key that is kept apart from the database: whoever has only the
 * database, or a copy of it, has no secret.
 */
import { createCipheriv, createDecipheriv, createHash, randomBytes } from 'node:crypto';
import { mkdir, open, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { SourceSecret } from '@usual-needle/contract';

const ALGORITHM = 'aes-256-gcm';
const NONCE = 12;
const TAG = 16;
/** The file in the data folder that holds the key, where none is given. */
const KEY_FILE = 'source-key';

/** A secret that was sealed by another key. */
export class CannotUnseal extends Error {
  constructor() {
    super('Its secret was kept under another key than this server has. Give it again.');
  }
}

export class Sealing {
  private known: Promise<Buffer> | undefined;

  /** @param given the key's text, of any length; else one is made, and kept in the folder */
  constructor(
    private readonly folder: string,
    private readonly given: string | undefined,
  ) {}

  async seal(secret: SourceSecret): Promise<string> {
    const nonce = randomBytes(NONCE);
    const cipher = createCipheriv(ALGORITHM, await this.key(), nonce);
    const sealed = Buffer.concat([cipher.update(JSON.stringify(secret), 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), sealed]).toString('base64');
  }

  /** @throws CannotUnseal */
  async unseal(sealed: string): Promise<SourceSecret> {
    const bytes = Buffer.from(sealed, 'base64');
    const key = await this.key();
    try {
      const decipher = createDecipheriv(ALGORITHM, key, bytes.subarray(0, NONCE));
      decipher.setAuthTag(bytes.subarray(NONCE, NONCE + TAG));
      const text = Buffer.concat([decipher.update(bytes.subarray(NONCE + TAG)), decipher.final()]).toString('utf8');
      return JSON.parse(text) as SourceSecret;
    } catch {
      throw new CannotUnseal();
    }
  }

  private key(): Promise<Buffer> {
    this.known ??= this.read();
    this.known.catch(() => (this.known = undefined));
    return this.known;
  }

  private async read(): Promise<Buffer> {
    const text = this.given ?? (await this.kept());
    return createHash('sha256').update(text).digest();
  }

  private async kept(): Promise<string> {
    const file = join(this.folder, KEY_FILE);
    await mkdir(this.folder, { recursive: true });
    // Whoever comes second reads what the first has written.
    const fresh = await open(file, 'wx', 0o600).catch((error: NodeJS.ErrnoException) => {
      if (error.code !== 'EEXIST') throw error;
      return undefined;
    });
    if (fresh) {
      await fresh.writeFile(randomBytes(32).toString('base64'));
      await fresh.sync();
      await fresh.close();
    }
    const text = (await readFile(file, 'utf8')).trim();
    if (text === '') throw new Error(`${file} is empty.`);
    return text;
  }
}

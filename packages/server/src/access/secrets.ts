/** Secrets in links and cookies: 128 bits by chance. Only their hashes are kept, so whoever reads the database can use none of them. */
import { createHash, randomBytes } from 'node:crypto';

/** A new secret, as it is written in an address. */
export function newSecret(): string {
  return randomBytes(16).toString('base64url');
}

/** The hash that a secret is known by. It is looked up, and not compared, so its time tells nothing of the secret. */
export function hashOf(secret: string): string {
  return createHash('sha256').update(secret).digest('base64url');
}

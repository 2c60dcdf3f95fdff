/**
 * Passwords by argon2id (RFC 9106), with the parameters that OWASP's Password Storage Cheat Sheet names. A name that nobody has is
 * held against a hash, too, so that the time of a refusal does not tell whether there is such a person.
 */
/** 19 MiB and two passes take some 30 ms; they are worked out on threads of the package's own. */
const PARAMETERS = { memoryCost: 19 * 1024, timeCost: 2, parallelism: 1 };

/** Read when it is first needed: a start does not wait for it. */
const argon2 = () => import('@node-rs/argon2');

export async function passwordHash(password: string): Promise<string> {
  return (await argon2()).hash(password, PARAMETERS);
}

let nobody: Promise<string> | undefined;

/** @param kept the hash of the person's password; null for somebody who has none */
export async function isPassword(password: string, kept: string | null): Promise<boolean> {
  const held = kept ?? (await (nobody ??= passwordHash('nobody has this')));
  const fits = await (await argon2()).verify(held, password);
  return kept !== null && fits;
}

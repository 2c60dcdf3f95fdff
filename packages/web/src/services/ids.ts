/** A name that nobody else has. By random numbers, since `crypto.randomUUID` is there only on secure origins, and many a team's server is none. */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (byte) => byte.toString(16).padStart(2, '0')).join('');
}

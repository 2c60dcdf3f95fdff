/** True of an address of the interface for programs. Addresses are answered however their letters are written. */
export function isApi(path: string): boolean {
  return /^\/api(?:\/|$)/i.test(path);
}

/**
 * Room on the disk that the embedded database writes to. A PostgreSQL that finds its disk full in the middle of a statement
 * stops answering anybody, so what would need much room is refused before.
 */
import { statfs } from 'node:fs/promises';

/** Room that is left to edits, and to the database's own tidying, in bytes. */
const KEPT_FREE = 32 * 1024 * 1024;

/** There is too little room on the disk, in words for whoever brought something in. */
export class DiskFull extends Error {}

/** @param needed bytes about to be written @throws DiskFull */
export async function checkRoom(folder: string, needed: number): Promise<void> {
  const { bavail, bsize } = await statfs(folder);
  if (bavail * bsize - needed >= KEPT_FREE) return;
  throw new DiskFull(
    'The disk that the records are kept on is full. Make room on it, or delete tables, and try again.',
  );
}

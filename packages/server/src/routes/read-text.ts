import type { IncomingMessage } from 'node:http';
import { HttpProblem } from './problems.js';

/** Largest file that can be brought in, in bytes. */
const FILE_LIMIT = 512 * 1024 * 1024;

/**
 * The body of a request as text.
 * @throws HttpProblem if it is too large or is not UTF-8
 */
export async function readText(request: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of request) {
    size += (chunk as Buffer).length;
    if (size > FILE_LIMIT)
      throw new HttpProblem(413, 'The file is too large', 'A file of up to 512 MB can be brought in.');
    chunks.push(chunk as Buffer);
  }
  try {
    return new TextDecoder('utf-8', { fatal: true, ignoreBOM: true }).decode(Buffer.concat(chunks));
  } catch {
    throw new HttpProblem(
      422,
      'The file was not brought in',
      'It is not UTF-8 text. Save it as CSV with UTF-8 and try again.',
    );
  }
}

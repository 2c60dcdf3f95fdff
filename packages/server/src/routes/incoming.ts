/** Files as they come in by HTTP: the body of a request, and what its address and headers say of it. */
import { ENCODINGS, fileChoicesSchema, LIMITS, type Encoding, type FileChoices } from '@usual-needle/contract';
import type { Bytes, Hints } from '@usual-needle/formats';
import type { Context } from 'koa';
import type { IncomingFile } from '../imports/bring-in.js';
import { HttpProblem } from './http-problem.js';
import { bodyOf } from './validate.js';

const choicesOf = bodyOf<FileChoices>(fileChoicesSchema);

/** Other names of encodings. */
const ALIASES: Readonly<Record<string, Encoding>> = { utf8: 'utf-8', latin1: 'iso-8859-1' };

function encodingOf(charset: string): Encoding | undefined {
  return ENCODINGS.find((one) => one === charset) ?? ALIASES[charset];
}

/** @param how choices as JSON, from the address. @throws HttpProblem */
export function incomingOf(ctx: Context, how: string | undefined): IncomingFile {
  if (Number(ctx.get('Content-Length')) > LIMITS.file)
    throw new HttpProblem(
      413,
      'The file is too large',
      `A file of up to ${LIMITS.file / 1024 / 1024} MB can be brought in.`,
    );
  const packed = ctx.get('Content-Encoding').trim().toLowerCase();
  if (packed !== '' && packed !== 'gzip' && packed !== 'x-gzip' && packed !== 'identity')
    throw new HttpProblem(415, 'The file is packed in a way that is not taken', 'Send it plain, or packed by gzip.');
  const [type, ...parameters] = ctx.get('Content-Type').split(';');
  const charset = /charset="?([\w-]+)"?/i.exec(parameters.join(';'))?.[1]?.toLowerCase();
  const encoding = charset === undefined ? undefined : encodingOf(charset);
  const choices = how === undefined ? {} : choicesOf(parsed(how));
  const hints: Hints = { type: type.trim().toLowerCase() };
  // A file that is refused is not cut off: who sends it would hear of that, and not of why.
  const bytes: Bytes = ctx.req.iterator({ destroyOnReturn: false }) as AsyncIterableIterator<Uint8Array>;
  return { bytes, choices: { ...(encoding && { encoding }), ...choices }, hints };
}

function parsed(how: string): unknown {
  try {
    return JSON.parse(how);
  } catch {
    throw new HttpProblem(400, 'The address cannot be read', '“how” is to be JSON.');
  }
}

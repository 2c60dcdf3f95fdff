/**
 * A take-away page: the interface's own page, with the rows in it, packed as an engine has them, compressed (RFC 1952) and written in
 * base64 (RFC 4648). Nothing that comes from a cell, a name or a text is markup or script there: base64 and the JSON of `inScript` have no `<`.
 */
import { Table } from '@usual-needle/engine';
import type { TakenAway } from '@usual-needle/contract';
import type { Writer } from '../taken.js';

/** The place in the template that the rows come to. */
const ROWS = '<!--rows-->';
/** Bytes that are encoded at once; a multiple of three, and no more than a call takes arguments. */
const AT_ONCE = 6 * 1024;

/** JSON as it may stand in a script element: no sign in it can end that, begin a comment, or break a line of script. */
function inScript(value: unknown): string {
  return JSON.stringify(value).replace(
    /[<>&\u2028\u2029]/g,
    (sign) => `\\u${sign.charCodeAt(0).toString(16).padStart(4, '0')}`,
  );
}

/** Base64 of bytes as they come. */
async function* base64Of(bytes: AsyncIterable<Uint8Array>): AsyncGenerator<string> {
  let left = new Uint8Array(0);
  for await (const some of bytes) {
    const all = new Uint8Array(left.length + some.length);
    all.set(left);
    all.set(some, left.length);
    const whole = all.length - (all.length % 3);
    for (let at = 0; at < whole; at += AT_ONCE)
      yield btoa(String.fromCharCode(...all.subarray(at, Math.min(whole, at + AT_ONCE))));
    left = all.slice(whole);
  }
  if (left.length > 0) yield btoa(String.fromCharCode(...left));
}

async function* compressed(parts: Iterable<Uint8Array>): AsyncGenerator<Uint8Array> {
  const left = parts[Symbol.iterator]();
  const bytes = new ReadableStream<Uint8Array<ArrayBuffer>>({
    pull: (controller) => {
      const { value, done } = left.next();
      if (done) controller.close();
      else controller.enqueue(value as Uint8Array<ArrayBuffer>);
    },
  });
  const reader = bytes.pipeThrough(new CompressionStream('gzip')).getReader();
  for (let { done, value } = await reader.read(); !done; { done, value } = await reader.read()) yield value!;
}

export const writeTakeAway: Writer = async function* (taken, rows) {
  const { columns, template = '', opened, change = 0, at = '', who } = taken;
  const [before, after] = template.split(ROWS);
  if (after === undefined || !opened) throw new Error('there is no page to put the rows into');
  const table = new Table(columns);
  // Numbered anew: how many rows there are beside these is nobody's to tell.
  let id = 0;
  for await (const some of rows)
    table.append(
      some.map(({ cells }) => ({ id: ++id, cells })),
      true,
    );
  table.append([]);
  const parts: [number, number][] = [];
  function* packed(): Generator<Uint8Array> {
    for (const part of table.packedCells()) {
      const size = (some: readonly Uint8Array[]): number => some.reduce((sum, { byteLength }) => sum + byteLength, 0);
      parts.push([size(part.numberParts), size(part.textParts)]);
      yield* part.numberParts;
      yield* part.textParts;
    }
  }
  yield `${before}<script type="text/plain" id="rows">`;
  for await (const text of base64Of(compressed(packed()))) yield text;
  const about: TakenAway = {
    id: `taken-${change}-${at}`,
    ...{ opened, columns, change, at, parts },
    ...(who !== undefined && { who }),
  };
  yield `</script>\n<script type="application/json" id="about">${inScript(about)}</script>${after}`;
};

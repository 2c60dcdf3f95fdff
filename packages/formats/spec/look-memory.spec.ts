import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { LookThrough } from '@usual-needle/formats';

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;
const MB = 1024 * 1024;

/** Rows of some text, in pieces as a file is read. */
async function* pieces(megabytes: number): AsyncGenerator<Uint8Array> {
  yield new TextEncoder().encode('No,Found on,Status,Remark\n');
  for (let row = 0, sent = 0; sent < megabytes * MB;) {
    let text = '';
    while (text.length < 256 * 1024) {
      row++;
      text += `LP-${row},2026-0${1 + (row % 9)}-1${row % 10},${['Held', 'Given to charity', 'Returned to owner'][row % 3]},`;
      text += `found under seat number ${row}; ${'handed in at the quay '.repeat(3)}\n`;
    }
    const bytes = new TextEncoder().encode(text);
    sent += bytes.length;
    yield bytes;
  }
}

describe('a large file that is looked through', () => {
  it('keeps the rows that are shown of it, and not what they were cut out of', async () => {
    const through = new LookThrough({}, { name: 'large.csv' });
    collect();
    const before = process.memoryUsage().heapUsed;
    for await (const _ of through.read(pieces(48))) void _;
    collect();
    const kept = (process.memoryUsage().heapUsed - before) / MB;
    expect(through.look().rows).toBeGreaterThan(300_000);
    expect(through.rowsOf({ place: 90 })[0].cells[3]).toContain('handed in at the quay');
    expect(kept).withContext('megabytes').toBeLessThan(12);
  }, 60_000);
});

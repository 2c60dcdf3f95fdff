import { mkdir, readdir, readFile, rm, stat, truncate, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { crc32 } from 'node:zlib';
import type { SearchAnswer, TableSummary } from '@usual-needle/contract';
import { sql } from 'drizzle-orm';
import { heardLog } from './heard.js';
import type { Tables } from '../dist/data/tables.js';
import { SearchThreads } from '../dist/threads/search-threads.js';
import { Running } from './running.js';

const ROWS = 12_000;
const WORDS = ['umbrella', 'Brückl hat', 'glove', 'LP-405'];
const csv = (count: number): string =>
  `No,Thing,Found on\n${Array.from({ length: count }, (_, i) => `${i},${WORDS[i % 4]} ${i},2026-11-${String((i % 28) + 1).padStart(2, '0')}`).join('\n')}\n`;

/** One after the other on one server: a bring-in for each would take longer than all else. */
describe('packs', () => {
  let running: Running;
  let id: number;
  let pack: string;
  let bytes: Uint8Array;

  beforeAll(async () => {
    running = await Running.start(false);
    ({ id } = (await running.ask('POST', '/api/tables?name=Many', csv(ROWS))).body as unknown as TableSummary);
    await running.server.threads.pack();
    pack = join(running.folder, 'packs', `table-${id}.pack`);
    bytes = await readFile(pack);
  });
  afterAll(() => running.end());

  /** Stops, lets something happen to the pack, and starts. */
  const again = async (before?: () => Promise<void>): Promise<void> => {
    await running.stop();
    await rm(pack, { recursive: true, force: true });
    await writeFile(pack, bytes);
    await before?.();
    running = await Running.start(false, running.folder);
  };
  const taken = (): boolean => running.server.threads.takenFromPacks.has(id);
  const found = async (text: string, table = id): Promise<SearchAnswer> =>
    (await running.find(table, text, ['No', 'Thing', 'Found on'])).body as unknown as SearchAnswer;
  const edit = (row: number, now: string) =>
    running.ask('POST', `/api/tables/${id}/changes`, {
      key: `packs-${row}-${now}`,
      kind: 'edited',
      columns: ['Thing'],
      changed: [{ id: row, was: [null], now: [now] }],
    });
  const whole = async (): Promise<unknown> => {
    const answers = [];
    for (const text of ['', 'brückl', 'lp405', 'umbr 40', '"glove 1"', '2026-11-03'])
      answers.push({ ...(await found(text)), milliseconds: 0, change: 0 });
    return answers;
  };

  it('of another database do not get in the way of what is brought in while they are read', async () => {
    const threads = new SearchThreads(heardLog(), 2, join(running.folder, 'packs'));
    try {
      threads.serve({ list: () => Promise.resolve([]) } as unknown as Tables, () => Promise.resolve());
      await threads.begin(id, [{ name: 'Thing', kind: 'text' }]);
      await threads.loadAll();
      await threads.appendFrom(id, 1, '["hat"]');
      await threads.finish(id, [{ name: 'Thing', kind: 'text' }], 1);
      expect(await threads.changeOf(id)).toBe(1);
    } finally {
      await threads.close();
    }
    await again();
  });

  it('are read at a start instead of the rows, and answer as before', async () => {
    const before = await whole();
    expect(bytes.byteLength).toBeGreaterThan(100_000);
    await again();
    expect(taken()).toBe(true);
    expect(await whole()).toEqual(before);
  });

  it('are followed by what the log says since: edits, added and removed rows, columns', async () => {
    await edit(7, 'zeppelin');
    await running.ask('POST', `/api/tables/${id}/changes`, {
      key: 'packs-added',
      kind: 'added',
      columns: ['Thing'],
      added: [['zeppelin of gold']],
      removed: [{ id: 8, seen: 99 }],
    });
    await running.ask(
      'POST',
      `/api/tables/${id}/columns`,
      { add: { name: 'Remark', kind: 'text' } },
      { 'if-match': '*' },
    );
    const before = await whole();
    await again();
    expect(taken()).toBe(true);
    expect((await found('zeppelin')).matched).toBe(2);
    expect((await found('')).total).toBe(ROWS);
    expect(await whole()).toEqual(before);
    // A column more is enough to make it anew; now it is so little behind that it is left as it is.
    await running.server.threads.pack();
    const anew = await readFile(pack);
    expect(anew.equals(bytes)).toBe(false);
    await edit(11, 'airship');
    await running.server.threads.pack();
    expect((await readFile(pack)).equals(anew)).toBe(true);
    await again(() => writeFile(pack, anew));
    expect(taken()).toBe(true);
    expect((await found('airship')).matched).toBe(1);
  });

  const damages: [what: string, damage: () => Promise<void>][] = [
    ['cut in half', async () => truncate(pack, Math.floor((await stat(pack)).size / 2))],
    ['without its last byte', async () => truncate(pack, (await stat(pack)).size - 1)],
    ['something else', () => writeFile(pack, 'not a pack at all, but long enough to look at')],
    ['a folder', async () => void (await rm(pack), await mkdir(pack))],
    ['of another engine', async () => replaced(/"engine":"\w/, '"engine":"-')],
    ['of another table', async () => replaced(/"table":\d/, '"table":9')],
  ];
  const replaced = async (what: RegExp, by: string): Promise<void> => {
    const text = await readFile(pack, 'latin1');
    expect(text).toMatch(what);
    await writeFile(pack, text.replace(what, by), 'latin1');
  };
  for (const [what, damage] of damages)
    it(`that are ${what} are not read: the table is built, and answers as before`, async () => {
      const before = await whole();
      await again(damage);
      expect(taken()).toBe(false);
      expect(await whole()).toEqual(before);
      // A good one takes its place.
      await running.server.threads.pack();
      expect((await stat(pack)).size).toBeGreaterThan(100_000);
    });

  it('with any bit flipped are noticed', async () => {
    const before = await whole();
    for (let i = 1; i <= 4; i++) {
      const at = Math.floor((bytes.length * i) / 5);
      const flipped = Uint8Array.from(bytes);
      flipped[at] ^= 1 << (i % 8);
      await again(() => writeFile(pack, flipped));
      expect(taken()).withContext(`byte ${at}`).toBe(false);
      expect(await found('umbr')).toEqual(jasmine.objectContaining({ matched: ROWS / 4, total: ROWS }));
    }
    expect(await whole()).toEqual(before);
  });

  /** A pack that says something else than the table, with checksums that are right: of all gloves, those that are asked for are bent. */
  const bent = (which: (place: number, of: number) => boolean): Buffer => {
    const copy = Buffer.from(bytes);
    const end = copy.length - 16;
    const footerAt = end - copy.readUInt32LE(end);
    const footer = JSON.parse(copy.subarray(footerAt, end).toString()) as {
      parts: Record<'numbers' | 'texts', { at: number; bytes: number; crc: number }>[];
    };
    const word = Buffer.from('glove');
    const places: number[] = [];
    for (let at = copy.indexOf(word); at >= 0 && at < footerAt; at = copy.indexOf(word, at + 1)) places.push(at);
    expect(places.length).toBeGreaterThan(2);
    places.forEach((at, i) => void (which(i, places.length) && copy.write('glofe', at)));
    for (const piece of footer.parts.flatMap(({ numbers, texts }) => [numbers, texts]))
      piece.crc = crc32(copy.subarray(piece.at, piece.at + piece.bytes));
    const text = Buffer.from(JSON.stringify(footer));
    const last = Buffer.from(copy.subarray(end));
    last.writeUInt32LE(text.byteLength, 0);
    last.writeUInt32LE(crc32(text), 4);
    return Buffer.concat([copy.subarray(0, footerAt), text, last]);
  };
  const bends: [what: string, which: (place: number, of: number) => boolean][] = [
    ['everywhere', () => true],
    ['in its first half', (place, of) => place < of / 2],
  ];
  for (const [what, which] of bends)
    it(`that are of this engine, and whole, but say something else than the table ${what}, are not believed`, async () => {
      const [before, gloves] = [await whole(), (await found('glove')).matched];
      await again(() => writeFile(pack, bent(which)));
      expect(taken()).toBe(false);
      expect(await whole()).toEqual(before);
      expect((await found('glove')).matched).toBe(gloves);
    });

  it('are read again, and followed, where a search thread ends', async () => {
    await again();
    await edit(15, 'balloon');
    const before = await whole();
    await running.server.threads.endThread();
    // The first answer that there is knows of it already.
    const first = async (): Promise<SearchAnswer> => {
      for (;;) {
        const { status, body } = await running.find(id, 'balloon', ['Thing']);
        if (status === 200) return body as unknown as SearchAnswer;
        expect(status).toBe(503);
      }
    };
    expect((await first()).matched).toBe(1);
    expect(await whole()).toEqual(before);
  });

  it('of a database that was put back to an earlier time are not read', async () => {
    await edit(7, 'zeppelin');
    // What stands in its log now was made at another moment than what was packed.
    const database = () =>
      (running.server.data.changes as unknown as { db: { execute(s: unknown): Promise<unknown> } }).db;
    const shifted = (by: string) =>
      database().execute(sql`update changes set at = at + ${by}::interval where number = 1`);
    await shifted('1 second');
    await again();
    expect(taken()).toBe(false);
    expect((await found('zeppelin')).matched).toBeGreaterThan(0);
    await shifted('-1 second');
  });

  it('of tables that are gone, and halves of packs, are taken away; a small table has none', async () => {
    const small = (await running.ask('POST', '/api/tables?name=Few', csv(50))).body as unknown as TableSummary;
    await running.server.threads.pack();
    expect(await readdir(join(running.folder, 'packs'))).toEqual([`table-${id}.pack`]);
    await running.ask('DELETE', `/api/tables/${id}`);
    await again(() => writeFile(join(running.folder, 'packs', 'table-1.pack.77.half'), 'half'));
    expect(await readdir(join(running.folder, 'packs'))).toEqual([]);
    expect((await running.find(id, 'hat', ['Thing'])).status).toBe(404);
    expect((await found('hat', small.id)).matched).toBe(13);
    // It comes back from the rows.
    await running.ask('POST', `/api/tables/${id}/restore`);
    expect((await found('hat')).matched).toBe(ROWS / 4);
  });
});

/** A refresh compares three things, cell by cell: what the last file said, what this one says, and what stands here. */
import { execFile } from 'node:child_process';
import type { Refresh, RowList, TableSummary } from '@usual-needle/contract';
import fc from 'fast-check';
import { sql } from 'drizzle-orm';
import { afterEdit, afterUndo, saidOf, type LoggedRow, type Said } from '../dist/data/said.js';
import { Running } from './running.js';

interface Changes {
  readonly changes: readonly { readonly rowChanges: readonly { readonly id: number }[] }[];
}
const FILE = 'No,Thing,Shelf\n1,umbrela,A\n2,hat,B\n3,glove,C\n4,scarf,D\n';
let keys = 0;

describe('a refresh leaves what was mended here', () => {
  let running: Running;
  let at: string;
  let id: number;
  beforeAll(async () => (running = await Running.start(false)));
  afterAll(() => running.end());
  beforeEach(async () => {
    ({ id } = (await running.ask('POST', '/api/tables?name=Things', FILE)).body as unknown as TableSummary);
    at = `/api/tables/${id}`;
  });
  const refresh = async (query: string, body: string): Promise<Refresh & { status: number; detail?: string }> => {
    const reply = await running.ask('PUT', `${at}/rows?key=No${query}`, body);
    return { ...(reply.body as unknown as Refresh), status: reply.status };
  };
  const rows = async (): Promise<string[]> =>
    ((await running.ask('GET', `${at}/rows?limit=1000`)).body as unknown as RowList).rows.map((row) =>
      row.cells.join(),
    );
  const edit = async (row: number, column: string, now: string): Promise<void> => {
    const changed = [{ id: row, was: [null], now: [now] }];
    const reply = await running.ask('POST', `${at}/changes`, {
      key: `mend-key-${++keys}`,
      kind: 'edited',
      columns: [column],
      changed,
    });
    expect(reply.status).toBe(200);
  };

  it('where the file did not change a cell, and takes what it did change', async () => {
    await edit(1, 'Thing', 'umbrella');
    const told = await refresh('', FILE.replace('1,umbrela,A', '1,umbrela,Q').replace('hat', 'cap'));
    expect([told.changed, told.mended, told.clashing]).toEqual([2, 1, 0]);
    expect(await rows()).toEqual(['1,umbrella,Q', '2,cap,B', '3,glove,C', '4,scarf,D']);
    // And again, by the same file, and by the one before: the mend goes on standing.
    expect((await refresh('', FILE)).mended).toBe(1);
    expect((await rows())[0]).toBe('1,umbrella,A');
  });

  it('and leaves out rows that were removed here, unless they are asked back', async () => {
    const change = async (what: object): Promise<number> => {
      const reply = await running.ask('POST', `${at}/changes`, { key: `mend-key-${++keys}`, ...what });
      expect(reply.status).toBe(200);
      return reply.body['change'] as number;
    };
    const remove = (row: number) => change({ kind: 'removed', columns: [], removed: [{ id: row, seen: 99 }] });
    const removal = await remove(2);
    const told = await refresh('', FILE.replace('glove', 'mitten'));
    expect([told.added, told.changed, told.removed]).toEqual([0, 1, 1]);
    expect(await rows()).toEqual(['1,umbrela,A', '3,mitten,C', '4,scarf,D']);
    expect((await refresh('&removed=back&preview=true', FILE)).added).toBe(1);
    // A removal that was undone is none; nor is a row that was added here, of which no file had said anything.
    await running.ask('POST', `${at}/changes/${removal}/undo`);
    expect((await refresh('', FILE)).removed).toBe(0);
    const added = await change({ kind: 'added', columns: ['No', 'Thing'], added: [['5', 'own']] });
    const five = ((await running.ask('GET', `${at}/changes?after=${added - 1}`)).body as unknown as Changes).changes[0];
    await remove(five.rowChanges[0].id);
    expect((await refresh('', `${FILE}5,ring,E\n`)).added).toBe(1);
    // What a file no longer had, and was removed for it, comes with a file that has it again.
    await refresh('&gone=remove', FILE);
    expect((await refresh('', `${FILE}5,ring,E\n`)).added).toBe(1);
    await remove(4);
    expect((await refresh('&removed=back', FILE)).added).toBe(1);
    expect((await rows()).some((row) => row.startsWith('4,scarf'))).toBeTrue();
  });

  it('until the file says the same, and then follows it', async () => {
    await edit(1, 'Thing', 'umbrella');
    await refresh('', FILE.replace('umbrela', 'umbrella'));
    const told = await refresh('', FILE.replace('umbrela', 'parasol'));
    expect([told.changed, told.mended, told.clashing]).toEqual([1, 0, 0]);
    expect((await rows())[0]).toBe('1,parasol,A');
  });

  it('and lists cells changed on both sides, with all three values: ours stand unless chosen otherwise', async () => {
    await edit(1, 'Thing', 'umbrella');
    await edit(2, 'Thing', 'hats');
    const newer = FILE.replace('umbrela', 'parasol').replace('hat', 'cap');
    const told = await refresh('&preview=true', newer);
    expect(told.clashes).toEqual([
      { row: 1, key: '1', column: 'Thing', said: 'umbrela', theirs: 'parasol', ours: 'umbrella', taken: 'ours' },
      { row: 2, key: '2', column: 'Thing', said: 'hat', theirs: 'cap', ours: 'hats', taken: 'ours' },
    ]);
    const refused = await refresh('&clashes=refuse', newer);
    expect([refused.status, refused.clashing, refused.clashes.length]).toEqual([409, 2, 2]);
    expect((await rows()).slice(0, 2)).toEqual(['1,umbrella,A', '2,hats,B']);
    expect((await refresh('&except=2:Thing', newer)).status).toBe(200);
    expect((await rows()).slice(0, 2)).toEqual(['1,umbrella,A', '2,cap,B']);
    // What was settled is no clash again; what the file says next is.
    expect((await refresh('', newer)).clashing).toBe(0);
    expect((await refresh('&clashes=theirs', newer.replace('parasol', 'brolly'))).clashing).toBe(1);
    expect((await rows())[0]).toBe('1,brolly,A');
  });

  it('also values that were renamed for a whole column, and rows that were added here', async () => {
    await running.ask('POST', `${at}/columns/values`, { column: 'Thing', from: 'umbrela', to: 'umbrella' });
    await running.ask('POST', `${at}/changes`, {
      key: `mend-key-${++keys}`,
      kind: 'added',
      columns: ['No', 'Thing'],
      added: [['9', 'mine']],
    });
    const told = await refresh('', `${FILE}9,theirs,Z\n`);
    expect([told.mended, told.clashing]).toEqual([1, 1]);
    expect(await rows()).toEqual(['1,umbrella,A', '2,hat,B', '3,glove,C', '4,scarf,D', '9,mine,Z']);
  });

  it('and once it is undone, the same file can be brought again', async () => {
    await edit(1, 'Thing', 'umbrella');
    await edit(2, 'Thing', 'hats');
    const newer = FILE.replace('umbrela', 'parasol').replace('glove', 'mitten');
    const { change } = await refresh('&clashes=theirs', newer);
    expect(await rows()).toEqual(['1,parasol,A', '2,hats,B', '3,mitten,C', '4,scarf,D']);
    expect((await running.ask('POST', `${at}/changes/${change}/undo`)).status).toBe(200);
    expect(await rows()).toEqual(['1,umbrella,A', '2,hats,B', '3,glove,C', '4,scarf,D']);
    const again = await refresh('&clashes=theirs', newer);
    expect([again.changed, again.mended, again.clashing]).toEqual([2, 1, 1]);
    expect(await rows()).toEqual(['1,parasol,A', '2,hats,B', '3,mitten,C', '4,scarf,D']);
  });

  it('of a folder of before files were remembered, by what its log knows', async () => {
    await refresh('', FILE.replace('scarf', 'shawl'));
    await edit(1, 'Thing', 'umbrella');
    await edit(3, 'Shelf', 'X');
    await edit(3, 'Shelf', 'C');
    const { db } = running.server.data.changes as unknown as { db: { execute(query: unknown): Promise<unknown> } };
    await db.execute(sql`update rows set said = null where table_id = ${id}`);
    await db.execute(sql`update tables set said_known = false where id = ${id}`);
    const told = await refresh('', FILE.replace('scarf', 'shawl'));
    expect([told.changed, told.mended, told.clashing]).toEqual([0, 1, 0]);
    expect((await rows())[0]).toBe('1,umbrella,A');
  });

  it('shows keys that are blank or stand twice, here and in the file, and goes on with the first of each, or without them', async () => {
    const odd = 'No,Thing,Shelf\n1,one,A\n1,two,A\n,none,N\n2,cap,B\n5,new,E\n';
    const shown = await refresh('&preview=true', odd);
    expect([shown.status, shown.unclear.file, shown.unclear.table] as unknown).toEqual([200, 2, 0]);
    expect(shown.unclear.rows).toEqual([
      { where: 'file', why: 'repeated', at: 3, key: '1', cells: ['1', 'two', 'A'] },
      { where: 'file', why: 'blank', at: 4, key: '', cells: ['', 'none', 'N'] },
    ]);
    expect((await refresh('', odd)).status).toBe(422);
    const left = await refresh('&unclear=leave&gone=remove', odd);
    expect([left.added, left.changed, left.gone]).toEqual([1, 1, 2]);
    expect(await rows()).toEqual(['1,umbrela,A', '2,cap,B', '5,new,E']);
    expect((await refresh('&unclear=first', odd)).changed).toBe(1);
    expect((await rows())[0]).toBe('1,one,A');
    // Twice here: the first is taken, the other stays as it is, and is not gone.
    await running.ask('POST', `${at}/changes`, {
      key: `mend-key-${++keys}`,
      kind: 'added',
      columns: ['No', 'Thing'],
      added: [
        ['2', 'twin'],
        ['', 'blank'],
      ],
    });
    const twice = await refresh('&unclear=first&gone=remove', 'No,Thing,Shelf\n2,first,B\n');
    expect([twice.changed, twice.gone, twice.unclear.table]).toEqual([1, 2, 2]);
    expect(await rows()).toEqual(['2,first,B', '2,twin,', ',blank,']);
  });

  it('remembers which column of the file is which of the table', async () => {
    const how = encodeURIComponent(JSON.stringify({ columns: [{}, { name: 'Thing' }] }));
    const first = await refresh(`&how=${how}`, 'No,What\n1,umbrella\n2,hat\n3,glove\n4,scarf\n');
    expect(first.matched).toEqual([{ file: 'What', table: 'Thing' }]);
    const again = await refresh('', 'No,What,Extra\n1,parasol,x\n2,hat,\n3,glove,\n4,scarf,\n');
    expect([again.matched, again.fresh, again.changed] as unknown).toEqual([
      [{ file: 'What', table: 'Thing' }],
      ['Extra'],
      1,
    ]);
    expect((await rows())[0]).toBe('1,parasol,A,x');
    expect((await running.ask('GET', at)).body['refreshedBy'] as unknown).toEqual({
      key: ['No'],
      gone: 'keep',
      columns: [{ file: 'What', table: 'Thing' }],
    });
  });

  it('by the command, too', async () => {
    await edit(1, 'Thing', 'umbrella');
    const command = (...more: string[]): Promise<string> =>
      new Promise((done, fail) => {
        const asked = ['bring-in', '-', '--server', running.server.address, '--refresh', String(id), '--key', 'No'];
        const child = execFile(
          process.execPath,
          ['../cli/bin/usual-needle.js', ...asked, ...more],
          (error, told, problem) => (error ? fail(new Error(problem)) : done(told)),
        );
        child.stdin!.end(FILE.replace('umbrela', 'parasol'));
      });
    await expectAsync(command('--clashes', 'refuse')).toBeRejectedWithError(/changed here, and to something else/);
    expect(await command()).toContain('1 cell changed on both sides, ours kept');
    expect((await rows())[0]).toBe('1,umbrella,A');
    expect(await command('--clashes', 'theirs', '--preview')).toContain('0 changed');
  });
});

describe('what the last file said', () => {
  const cells = fc.array(fc.constantFrom('', 'a', 'b', 'c'), { minLength: 3, maxLength: 3 });

  it('is what it said, whatever is edited, and undone, afterwards', () => {
    fc.assert(
      fc.property(cells, fc.array(cells, { maxLength: 5 }), (file, edits) => {
        let now: readonly string[] = file;
        let said: Said | null = null;
        for (const next of edits) {
          const logged: LoggedRow = {
            id: 1,
            before: now,
            after: next,
            said: { before: said, after: afterEdit(now, said, next) },
          };
          const told: Said | null = logged.said!.after;
          expect(file.map((_, i) => told?.[i] ?? next[i])).toEqual(file);
          const back = { id: 1, before: next, after: now };
          const undone = afterUndo(logged, 'edited', { cells: next, said: told && JSON.stringify(told) }, back);
          expect(file.map((_, i) => undone?.[i] ?? now[i])).toEqual(file);
          now = next;
          said = told;
        }
        expect(saidOf(Object.entries(said ?? {}), file)).toBeNull();
      }),
    );
  });
});

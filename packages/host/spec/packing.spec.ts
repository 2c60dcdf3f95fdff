import { type Change, type Column, type RowChange, WHOLE_SCOPE } from '@usual-needle/contract';
import { answerIn, Host, MISSING, PackReader, type PackWriter } from '@usual-needle/host';

const COLUMNS: Column[] = [
  { name: 'Thing', kind: 'text' },
  { name: 'Status', kind: 'choice' },
];
const rowsOf = (count: number): { id: number; cells: string[] }[] =>
  Array.from({ length: count }, (_, i) => ({ id: i + 1, cells: [`hat ${i}`, i % 2 ? 'Held' : 'Sold'] }));

async function hostOf(count: number): Promise<Host> {
  const host = new Host();
  host.begin(1, COLUMNS);
  await host.append(1, rowsOf(count));
  await host.finish(1, 1);
  return host;
}

function edit(number: number, rowChanges: readonly RowChange[], columns: Change['columns'] = null): Change {
  const told = { at: '2026-11-26T10:00:00Z', who: null, key: null, undoes: null, counts: null };
  return { ...told, table: 1, number, kind: 'edited', rows: rowChanges.length, rowChanges, columns };
}
const change = (number: number, id: number, thing: string): Change =>
  edit(number, [{ id, before: null, after: [thing, 'Held'] }]);

function joined(parts: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
  const all = new Uint8Array(parts.reduce((sum, { byteLength }) => sum + byteLength, 0));
  parts.reduce((at, part) => (all.set(part, at), at + part.byteLength), 0);
  return all;
}
const read = ({ numberParts, textParts }: PackWriter): PackReader =>
  new PackReader(joined(numberParts).buffer, joined(textParts));

async function unpacked(host: Host, parts: readonly PackWriter[]): Promise<void> {
  const segments = async function* (): AsyncGenerator<PackReader> {
    for (const part of parts.slice(0, -1)) yield Promise.resolve(read(part));
  };
  await host.unpack(1, COLUMNS, read(parts[parts.length - 1]), segments());
}

async function found(host: Host, text: string): Promise<number[]> {
  const question = { threaded: ['Thing', 'Status'], strands: [{ verb: 'find' as const, text }] };
  const answer = await host.search(WHOLE_SCOPE, 1, { question });
  return (JSON.parse(answerIn(answer)) as { rows: { id: number }[] }).rows.map(({ id }) => id);
}

describe('a host that packs a table', () => {
  const packed = async (
    host: Host,
    meanwhile: (part: number) => void = () => undefined,
  ): Promise<[PackWriter[], Awaited<ReturnType<Host['pack']>>]> => {
    const parts: PackWriter[] = [];
    const as = await host.pack(1, (part) => {
      meanwhile(parts.push(part));
      return Promise.resolve();
    });
    return [parts, as];
  };

  it('says which change it is of, and another takes it from there', async () => {
    const host = await hostOf(20_000);
    host.apply(change(2, 7, 'umbrella'));
    const [parts, as] = await packed(host);
    expect(as).toEqual({ change: 2, columns: COLUMNS });
    const other = new Host();
    await unpacked(other, parts);
    other.trust(1, 2);
    expect(other.changeOf(1)).toBe(2);
    for (const text of ['umbrella', 'hat 77', 'status:held hat 1999'])
      expect(await found(other, text)).toEqual(await found(host, text));
    for (const one of [host, other]) expect(one.apply(change(3, 19_999, 'umbrella'))).toBe('applied');
    expect(await found(other, 'umbrella')).toEqual([7, 19_999]);
  });

  it('is of its beginning if rows change meanwhile: the changes since make it right', async () => {
    const host = await hostOf(20_000);
    let number = 1;
    const [parts, as] = await packed(
      host,
      (part) => void host.apply(change(++number, part * 5_000, `umbrella ${part}`)),
    );
    expect(as?.change).toBe(1);
    const other = new Host();
    await unpacked(other, parts);
    other.trust(1, 1);
    for (let i = 2; i <= number; i++) other.apply(change(i, (i - 1) * 5_000, `umbrella ${i - 1}`));
    expect(await found(other, 'umbrella')).toEqual(await found(host, 'umbrella'));
    expect(await found(other, 'umbrella')).toHaveSize(number - 1);
  });

  it('gives up if columns change meanwhile, or the table goes', async () => {
    const host = await hostOf(20_000);
    const after: Column[] = [{ name: 'Thing', kind: 'choice' }, COLUMNS[1]];
    const [, changed] = await packed(host, (part) => {
      if (part === 1) host.apply(edit(2, [], { before: COLUMNS, after }));
    });
    expect(changed).toBeUndefined();
    const [, gone] = await packed(host, () => host.drop(1));
    expect(gone).toBeUndefined();
    expect((await packed(host))[1]).toBeUndefined();
  });

  it('does not answer from a pack before it is trusted, nor after it was not', async () => {
    const [parts] = await packed(await hostOf(100));
    const host = new Host();
    await unpacked(host, parts);
    await expectAsync(found(host, 'hat')).toBeRejectedWithError(/loading/);
    expect(host.changeOf(1)).toBeUndefined();
    host.dropUntrusted(1);
    expect(await host.search(WHOLE_SCOPE, 1, { question: { threaded: [], strands: [] } })).toEqual(MISSING);
    await unpacked(host, parts);
    host.trust(1, 1);
    host.dropUntrusted(1);
    expect(await found(host, '"hat 42"')).toEqual([43]);
  });

  it('leaves alone what is filled otherwise before it is known whether a pack fits', async () => {
    const [parts] = await packed(await hostOf(100));
    const early = new Host();
    await unpacked(early, parts);
    early.begin(1, COLUMNS);
    early.dropUntrusted(1);
    await early.append(1, [{ id: 1, cells: ['umbrella', 'Held'] }]);
    await early.finish(1, 1);
    early.dropUntrusted(1);
    expect(await found(early, 'umbrella')).toEqual([1]);
    expect(() => early.trust(1, 1)).toThrow();
    // Nor is what is there, or being filled, taken from a pack that is read afterwards.
    const late = new Host();
    late.begin(1, COLUMNS);
    await expectAsync(unpacked(late, parts)).toBeRejected();
    late.dropUntrusted(1);
    await late.append(1, [{ id: 1, cells: ['umbrella', 'Held'] }]);
    await late.finish(1, 1);
    expect(await found(late, 'umbrella')).toEqual([1]);
  });

  it('leaves nothing of a pack that is damaged', async () => {
    const [parts] = await packed(await hostOf(100));
    const host = new Host();
    await expectAsync(unpacked(host, [parts[1], parts[1]])).toBeRejected();
    expect(host.rowsRead(1)).toBe(0);
    expect(() => host.trust(1, 1)).toThrow();
  });
});

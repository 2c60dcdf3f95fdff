import { LIMITS } from '@usual-needle/contract';
import { heardLog } from './heard.js';
import { EarlierTables } from '../dist/threads/earlier-tables.js';

describe('tables as they were, held for a while', () => {
  const setUp = () => {
    const did: string[] = [];
    const does = (what: string) => (id: number) => (did.push(`${what} ${id}`), Promise.resolve());
    const holding = { begin: does('begin'), append: does('fill'), end: does('end'), forget: does('forget') };
    const earlier = new EarlierTables(holding, heardLog());
    const open = (change: number, rows: number) =>
      earlier.open({ now: 1, change, columns: [], rows }, async function* () {
        yield await Promise.resolve([{ id: 1, version: 1, cells: [] }]);
      });
    return { did, earlier, open };
  };
  const settled = () => new Promise((done) => setTimeout(done, 5));

  it('give way to the next ones where there are too many, or too many rows', async () => {
    const { earlier, open } = setUp();
    const few = [1, 2, 3, 4].map((change) => open(change, 10));
    await settled();
    expect(few.every(({ done }) => done)).toBe(true);
    earlier.asked(few[0].id);
    const fifth = open(5, 10);
    expect(few.map(({ id }) => earlier.asked(id) !== undefined)).toEqual([true, false, true, true]);
    const large = open(6, LIMITS.earlier - 10);
    expect([...few, fifth].filter(({ id }) => earlier.asked(id)).map(({ change }) => change)).toEqual([4]);
    expect(earlier.asked(large.id)).toBeDefined();
  });

  it('that nobody wants any more are not read, or forgotten once they are', async () => {
    const { did, earlier, open } = setUp();
    const [first, second] = [open(1, 10), open(2, 10)];
    earlier.gone(1);
    await settled();
    expect(did.filter((one) => one.startsWith('end'))).toEqual([]);
    expect([first, second].some(({ id }) => earlier.asked(id))).toBe(false);
    expect(did.filter((one) => one === `forget ${second.id}`).length).toBeGreaterThan(0);
  });

  it('that cannot be read are not there, and the next one is read all the same', async () => {
    const { earlier, open } = setUp();
    const failing = earlier.open({ now: 1, change: 9, columns: [], rows: 1 }, () => {
      throw new Error('the database is away');
    });
    const next = open(2, 10);
    await settled();
    expect([earlier.asked(failing.id), next.done]).toEqual([undefined, true]);
  });
});

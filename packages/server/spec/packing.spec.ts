import { heardLog } from './heard.js';
import { Packing } from '../dist/threads/packing.js';

describe('packing', () => {
  beforeEach(() => void jasmine.clock().install());
  afterEach(() => jasmine.clock().uninstall());

  const settled = async (): Promise<void> => {
    for (let i = 0; i < 20; i++) await Promise.resolve();
  };
  const packing = (packed: number[]): Packing =>
    new Packing(
      {
        whole: () => [
          { id: 1, rows: 20_000 },
          { id: 2, rows: 20 },
        ],
        changeOf: () => Promise.resolve(1),
        timeOf: () => Promise.resolve('2026-11-26T12:00:00Z'),
        pack: (id) => Promise.resolve(packed.push(id) > 0),
      },
      heardLog(),
    );

  it('is done soon after a table was brought in, else now and then; once, and of large tables', async () => {
    const packed: number[] = [];
    const one = packing(packed);
    jasmine.clock().tick(4_000);
    await settled();
    expect(packed).toEqual([]);
    one.soon();
    jasmine.clock().tick(1_000);
    await settled();
    expect(packed).toEqual([1]);
    jasmine.clock().tick(10_000);
    await settled();
    expect(packed).toEqual([1]);
    one.close();
  });

  it('is not begun once it is closed', async () => {
    const packed: number[] = [];
    const one = packing(packed);
    one.close();
    one.soon();
    jasmine.clock().tick(20_000);
    await settled();
    expect(packed).toEqual([]);
  });
});

import fc from 'fast-check';
import { BlockedOrder } from '../dist/order/positions.js';

describe('the places of slots in a list', () => {
  const step = fc.record({ takes: fc.boolean(), at: fc.nat(), slot: fc.nat(59) });

  it('are those of a list that is looked through, whatever comes and goes', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.nat(59), { maxLength: 30 }),
        fc.array(step, { maxLength: 60 }),
        fc.integer({ min: 1, max: 9 }),
        (slots, steps, size) => {
          const list = [...slots];
          let positions = new BlockedOrder(Uint32Array.from(list), 60, size);
          for (const { takes, at, slot } of steps) {
            if (takes && list.length > 0) {
              const place = at % list.length;
              list.splice(place, 1);
              positions.took(Uint32Array.from(list), place);
            } else if (!takes && !list.includes(slot)) {
              const place = at % (list.length + 1);
              list.splice(place, 0, slot);
              if (!positions.put(Uint32Array.from(list), place))
                positions = new BlockedOrder(Uint32Array.from(list), 60, size);
            }
            expect(list.map((one) => positions.of(one))).toEqual(list.map((_, place) => place));
          }
        },
      ),
    );
  });

  it('say when a block is too large', () => {
    const positions = new BlockedOrder(Uint32Array.from([0, 1, 2, 3]), 20, 4);
    const list = [0, 1, 2, 3];
    const kept = [4, 5, 6, 7].map((slot) => {
      list.push(slot);
      return positions.put(Uint32Array.from(list), list.length - 1);
    });
    expect(kept).toEqual([true, true, true, false]);
  });
});

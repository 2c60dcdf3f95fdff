import type { EditRequest } from '@usual-needle/contract';
import fc from 'fast-check';
import { askedEdit, planEdit, planUndo, type RowNow } from '../dist/data/edits.js';

const WIDTH = 3;
const cell = fc.constantFrom('', 'a', 'b', 'c');
const cells = fc.array(cell, { minLength: WIDTH, maxLength: WIDTH });
const table = fc
  .uniqueArray(fc.integer({ min: 1, max: 9 }), { maxLength: 6 })
  .chain((ids) =>
    fc.tuple(...ids.map((id) => fc.record({ id: fc.constant(id), cells, version: fc.integer({ min: 1, max: 5 }) }))),
  )
  .map((rows) => new Map<number, RowNow>(rows.map(({ id, ...row }) => [id, row])));
const places = fc.uniqueArray(fc.nat(WIDTH - 1), { minLength: 1, maxLength: WIDTH });
const request = places.chain((at) => {
  const some = fc.array(fc.option(cell), { minLength: at.length, maxLength: at.length });
  const body = fc.record({
    changed: fc.uniqueArray(fc.record({ id: fc.integer({ min: 1, max: 9 }), was: some, now: some }), {
      selector: ({ id }) => id,
      maxLength: 4,
    }),
    added: fc.array(fc.array(cell, { minLength: at.length, maxLength: at.length }), { maxLength: 3 }),
  });
  return body.map((of) => ({
    at,
    asked: { key: 'property-key', kind: 'edited', columns: at.map(String), ...of } as EditRequest,
  }));
});

/** A table once changes are done to it. */
function done(
  rows: ReadonlyMap<number, RowNow>,
  changes: ReturnType<typeof planEdit>['rowChanges'],
): Map<number, RowNow> {
  const next = new Map(rows);
  for (const { id, after } of changes) {
    if (after) next.set(id, { cells: after, version: 9 });
    else next.delete(id);
  }
  return next;
}
const texts = (rows: ReadonlyMap<number, RowNow>): unknown => [...rows].map(([id, row]) => [id, row.cells]).sort();

describe('an edit of rows as they are', () => {
  it('writes what was asked where a cell is what it was seen to be, clashes where it is not, and leaves the rest', () => {
    fc.assert(
      fc.property(table, request, (rows, { at, asked }) => {
        const { rowChanges, clashes } = planEdit(askedEdit(asked), at, WIDTH, rows, 100);
        for (const { id, was, now } of asked.changed ?? []) {
          const before = rows.get(id)?.cells;
          const after = rowChanges.find((change) => change.id === id)?.after ?? before;
          if (!before) {
            expect(clashes.some((clash) => clash.id === id && clash.theirs === null)).toBe(true);
            continue;
          }
          for (let place = 0; place < WIDTH; place++) {
            const i = at.indexOf(place);
            const [seen, wanted] = i < 0 ? [null, null] : [was[i], now[i]];
            const clashing = wanted !== null && wanted !== before[place] && seen !== null && seen !== before[place];
            expect(clashes.some((clash) => clash.id === id && clash.column === String(place))).toBe(clashing);
            expect(after![place]).toBe(wanted === null || clashing ? before[place] : wanted);
          }
        }
        expect(rowChanges.filter(({ before }) => before === null).map(({ id }) => id)).toEqual(
          (asked.added ?? []).map((_, i) => 100 + i),
        );
      }),
    );
  });

  it('undone at once, leaves the table as it was; after others, what they did stays', () => {
    fc.assert(
      fc.property(table, request, request, (rows, first, second) => {
        const one = planEdit(askedEdit(first.asked), first.at, WIDTH, rows, 100).rowChanges;
        const after = done(rows, one);
        const back = planUndo(one, after);
        expect(back.stuck).toEqual([]);
        expect(texts(done(after, back.rowChanges))).toEqual(texts(rows));
        const two = planEdit(askedEdit(second.asked), second.at, WIDTH, after, 200).rowChanges;
        const later = done(after, two);
        const undone = done(later, planUndo(one, later).rowChanges);
        for (const { id, before, after: made } of two) {
          if (!made) continue;
          for (let place = 0; place < WIDTH; place++) {
            const theirs = (before?.[place] ?? '') !== made[place];
            if (theirs && undone.has(id)) expect(undone.get(id)!.cells[place]).toBe(made[place]);
          }
        }
      }),
    );
  });
});

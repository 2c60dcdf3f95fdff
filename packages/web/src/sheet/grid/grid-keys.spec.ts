import { type GridActions, gridKey } from './grid-keys';

describe('keys in the grid', () => {
  let done: string[];
  const actions = (edits: boolean, more: Partial<GridActions> = {}): GridActions => ({
    row: 5,
    column: 2,
    page: 10,
    moveTo: (row, further) => done.push(`row ${row}${further ? ' further' : ''}`),
    moveAside: (column, further) => done.push(`column ${column}${further ? ' further' : ''}`),
    toggle: () => done.push('toggle'),
    peek: () => done.push('peek'),
    open: (typing = false) => (done.push(typing ? 'open by typing' : 'open'), true),
    blank: () => done.push('blank'),
    fillDown: () => done.push('fill down'),
    copy: () => (done.push('copy'), true),
    removeRows: () => done.push('remove rows'),
    all: () => done.push('all'),
    single: () => false,
    edits,
    ...more,
  });
  beforeEach(() => (done = []));

  const cases: [key: string, does: string, taken: boolean, init?: KeyboardEventInit][] = [
    ['ArrowDown', 'row 6', true],
    ['ArrowUp', 'row 4 further', true, { shiftKey: true }],
    ['ArrowDown', 'row Infinity', true, { ctrlKey: true }],
    ['End', 'column Infinity', true],
    ['Home', 'row 0', true, { ctrlKey: true }],
    ['PageUp', 'row -5', true],
    [' ', 'peek', true],
    [' ', 'toggle', true, { ctrlKey: true }],
    ['F2', 'open', true],
    ['Enter', 'open', true],
    ['Enter', '', false, { shiftKey: true }],
    // The letter itself goes on into the field that has opened.
    ['u', 'open by typing', false],
    ['é', 'open by typing', false],
    ['Process', 'open by typing', false],
    ['/', '', false],
    ['?', '', false],
    ['Delete', 'blank', true],
    ['Delete', 'remove rows', true, { ctrlKey: true }],
    ['d', 'fill down', true, { ctrlKey: true }],
    ['C', 'copy', true, { metaKey: true }],
    ['v', '', false, { ctrlKey: true }],
    ['a', 'all', true, { ctrlKey: true }],
    ['ArrowDown', '', false, { altKey: true }],
    ['Tab', '', false],
    ['Escape', '', false],
  ];
  for (const [key, does, taken, init = {}] of cases)
    it(`${JSON.stringify(init)} ${key}: ${does || 'nothing'}`, () => {
      expect(gridKey(new KeyboardEvent('keydown', { key, ...init }), actions(true))).toBe(taken);
      expect(done).toEqual(does === '' ? [] : [does]);
    });

  it('of a reader edit nothing, and copy', () => {
    for (const key of ['F2', 'Enter', 'u', 'Delete'])
      expect(gridKey(new KeyboardEvent('keydown', { key }), actions(false))).toBe(false);
    gridKey(new KeyboardEvent('keydown', { key: 'c', ctrlKey: true }), actions(false));
    expect(done).toEqual(['copy']);
  });

  it('leave the text that is selected to the browser', () => {
    const event = new KeyboardEvent('keydown', { key: 'c', ctrlKey: true });
    expect(gridKey(event, actions(true, { copy: () => false }))).toBe(false);
  });
});

import { dependentsWords } from './dependents';

describe('what depends on a table or column', () => {
  it('is told with how often each box was opened, the most used first', () => {
    const boxes = [
      { id: 1, name: 'Audit', opened: 0 },
      { id: 2, name: 'Desk', opened: 12 },
    ];
    expect(dependentsWords({ boxes, borrowers: [{ id: 3, name: 'Claims', columns: ['Town', 'Depot'] }] })).toEqual([
      'Claims borrows Town and Depot from it, which will be blank.',
      'The box “Desk” uses it: opened 12 times.',
      'The box “Audit” uses it: opened never so far.',
    ]);
    expect(dependentsWords({ boxes: [], borrowers: [] })).toEqual(['Nothing depends on it.']);
  });
});

import type { Box } from '@usual-needle/contract';
import { strandsOf } from '../../common/question';
import { changedBox, pickerWords } from './box-change';

const BOX: Box = {
  format: 'usual-needle box',
  version: 1,
  threaded: ['A'],
  strands: [
    { verb: 'find', text: 'umbrela mahogany' },
    { verb: 'minus', text: 'torn' },
  ],
  pickers: [{ column: 'Status', values: ['Held'] }],
};

describe('a box that is changed by a remedy', () => {
  it('has the change and nothing else', () => {
    expect(changedBox(BOX, { type: 'replace', strand: 0, start: 0, end: 7, text: 'umbrella' }).strands![0].text).toBe(
      'umbrella mahogany',
    );
    expect(changedBox(BOX, { type: 'replace', strand: 0, start: 8, end: 16, text: '' }).strands![0].text).toBe(
      'umbrela',
    );
    expect(changedBox(BOX, { type: 'thread', columns: ['B', 'A'] }).threaded).toEqual(['A', 'B']);
    expect(changedBox(BOX, { type: 'open', picker: 0 }).pickers).toEqual([{ column: 'Status', values: [] }]);
    expect(changedBox(BOX, { type: 'need any word' })).toEqual({ ...BOX, need: 'any word' });
    expect(changedBox(BOX, { type: 'remove strand', strand: 1 }).strands).toEqual([BOX.strands![0]]);
    const several = changedBox(BOX, {
      type: 'several',
      of: [
        { type: 'replace', strand: 0, start: 0, end: 7, text: 'umbrella' },
        { type: 'replace', strand: 0, start: 8, end: 16, text: 'brown' },
      ],
    });
    expect(several.strands![0].text).toBe('umbrella brown');
  });

  it('always has a strand that finds', () => {
    expect(strandsOf({ ...BOX, strands: undefined })).toEqual([{ verb: 'find', text: '' }]);
    expect(strandsOf({ ...BOX, strands: [{ verb: 'minus', text: 'x' }] }).map(({ verb }) => verb)).toEqual([
      'find',
      'minus',
    ]);
  });
});

describe('a picker in words', () => {
  it('says what it asks, and nothing if it asks nothing', () => {
    expect(pickerWords({ column: 'A', values: ['Held', ''] })).toBe('Held, blank');
    expect(pickerWords({ column: 'A', values: [] })).toBe('');
    expect(pickerWords({ column: 'A', days: { from: '2026-01', to: '2026-03' } })).toBe('2026-01 to 2026-03');
    expect(pickerWords({ column: 'A', days: { from: '', to: '2026' } })).toBe('up to 2026');
    const days = { from: '2026-01-05', to: '2026-03' };
    const column = { name: 'A', kind: 'date', shown: { date: 'dd/MM/yyyy' } } as const;
    expect(pickerWords({ column: 'A', days })).toBe('2026-01-05 to 2026-03');
    expect(pickerWords({ column: 'A', days }, column)).toBe('05/01/2026 to 2026-03');
    expect(pickerWords({ column: 'A', numbers: { from: 5, to: null } })).toBe('from 5');
    expect(pickerWords({ column: 'A', answer: 'either' })).toBe('');
    expect(pickerWords({ column: 'A', letters: ['a', 'b'] })).toBe('starts with A B');
  });
});

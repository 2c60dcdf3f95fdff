import type { Column } from '@usual-needle/contract';
import { calendarForm, dateOf, dayOf, isoDay, spansUpTo } from './day-spans';

describe('B6: days of a picker', () => {
  it('quick spans end with the last day there is', () => {
    const last = Date.parse('2024-03-02') / 86_400_000;
    expect(spansUpTo(last)).toEqual([
      { name: 'last 7 days', from: '2024-02-25', to: '2024-03-02' },
      { name: 'this month', from: '2024-03-01', to: '2024-03-02' },
      { name: 'this year', from: '2024-01-01', to: '2024-03-02' },
    ]);
    expect(isoDay(0)).toBe('1970-01-01');
    expect(isoDay(-1)).toBe('1969-12-31');
  });

  it('a month or a year is its first or its last day, as a calendar has it', () => {
    for (const [text, from, to] of [
      ['2026-11-18', '2026-11-18', '2026-11-18'],
      ['2026-02', '2026-02-01', '2026-02-28'],
      ['2024-02', '2024-02-01', '2024-02-29'],
      ['2026', '2026-01-01', '2026-12-31'],
      ['0099-05-06', '0099-05-06', '0099-05-06'],
    ])
      expect([dayOf(dateOf(text, false)), dayOf(dateOf(text, true))])
        .withContext(text)
        .toEqual([from, to]);
    for (const text of ['', 'soon', '18.11.2026', '2026-1-1'])
      expect(dateOf(text, false)).withContext(text).toBeUndefined();
    expect(dayOf(undefined)).toBe('');
  });

  it('the calendar has the column’s own form', () => {
    const shown = (date?: string): string =>
      calendarForm({ kind: 'date', ...(date && { shown: { date } }) } as unknown as Column);
    expect([shown(), shown('d MMM yyyy'), shown('MM/dd/yyyy')]).toEqual(['yy-mm-dd', 'd M yy', 'mm/dd/yy']);
  });
});

import type { Column } from '@usual-needle/contract';
import { datesExpected, numbersExpected, typedDay, typedNumber, writtenNumber } from './typed-values';

const LENT: Column = { name: 'Lent', kind: 'date', dateOrder: 'day first', shown: { date: 'd MMM yyyy' } };
const PRICE: Column = { name: 'Price', kind: 'number', decimal: 'comma' };

describe('what is typed into a picker', () => {
  const days: [string, string | undefined][] = [
    ['01.03.2015', '2015-03-01'],
    ['01/03/2015', '2015-03-01'],
    ['2015-03-01', '2015-03-01'],
    ['1 Mar 2015', '2015-03-01'],
    ['2015', '2015'],
    ['2015-3', '2015-03'],
    [' ', ''],
    ['tuesday', undefined],
    ['31.02.2015', undefined],
  ];
  for (const [text, day] of days) it(`is a day: ${text}`, () => expect(typedDay(text, LENT)).toBe(day));

  const numbers: [string, number | null | undefined][] = [
    ['1.000,50', 1000.5],
    ['1000.5', 1000.5],
    ['1 000,5', 1000.5],
    ['−3', -3],
    ['', null],
    ['1e999', undefined],
    ['--1', undefined],
    ['lots', undefined],
  ];
  for (const [text, value] of numbers) it(`is a number: ${text}`, () => expect(typedNumber(text, PRICE)).toBe(value));

  it('is told what is expected, by an example of the column', () => {
    expect(datesExpected('soon', LENT, 16_605)).toContain('like “19 Jun 2015”');
    expect(numbersExpected('lots', PRICE, 0.125)).toContain('“0,125”');
    for (const value of [0.125, -1.5, 1250.25, 3]) expect(typedNumber(writtenNumber(value, PRICE), PRICE)).toBe(value);
  });
});

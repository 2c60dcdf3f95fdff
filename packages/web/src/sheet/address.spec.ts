import { readAddress, writeAddress, type AddressState } from './address';

describe('the address of a search', () => {
  const states: AddressState[] = [
    {},
    { text: 'umbr wood' },
    { text: 'a&b=c#d %20+', threaded: ['Finder’s note', 'A&B'] },
    { threaded: [] },
    { text: 'Łódź “x”', threaded: ['Marks'] },
  ];
  for (const state of states) {
    it(`reads back ${JSON.stringify(state)}`, () => {
      const query = writeAddress(state);
      expect(readAddress(query === '' ? '/box/1' : `/box/1?${query}`)).toEqual({
        text: state.text,
        threaded: state.threaded,
      });
    });
  }
});

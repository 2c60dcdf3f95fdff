import { forgetTypedLast, keepTypedLast, typedLast } from './typed-last';

describe('A2: what was typed just before a reload', () => {
  const BEFORE = '/box/1';
  const AFTER = '/box/1?q=umbr';
  /** How the page came, and how long before it was asked for the address was written, in milliseconds. */
  const comes = (type: string, written = 0): void => {
    spyOn(performance, 'getEntriesByType').and.returnValue([{ type } as unknown as PerformanceEntry]);
    const now = performance.timeOrigin - written;
    spyOn(performance, 'now').and.returnValue(now - performance.timeOrigin);
  };
  afterEach(() => forgetTypedLast());

  const cases: [what: string, type: string, written: number, address: string, told: string | undefined][] = [
    ['comes where it was written once the reload had begun', 'reload', -300, BEFORE, AFTER],
    ['comes where it was written just before, and did not come through', 'reload', 400, BEFORE, AFTER],
    ['does not come where it did come through', 'reload', 400, AFTER, undefined],
    ['does not come where it was written long before', 'reload', 60_000, BEFORE, undefined],
    ['does not come where the page was not reloaded', 'navigate', 400, BEFORE, undefined],
    ['does not come to another address', 'reload', 400, '/box/2', undefined],
  ];
  for (const [what, type, written, address, told] of cases)
    it(what, () => {
      comes(type, written);
      keepTypedLast(BEFORE, AFTER);
      expect(typedLast(address)).toBe(told);
      // Once, whatever it was.
      expect(typedLast(BEFORE)).toBeUndefined();
    });

  it('does not come where the address is what it is for another reason', () => {
    comes('reload');
    keepTypedLast(BEFORE, AFTER);
    forgetTypedLast();
    expect(typedLast(BEFORE)).toBeUndefined();
  });

  it('is no matter where nothing of the kind is kept', () => {
    comes('reload');
    for (const text of ['', 'null', '7', '{"before":7}', '{']) {
      sessionStorage.setItem('usual-needle typed last', text);
      expect(typedLast(BEFORE)).toBeUndefined();
    }
  });
});

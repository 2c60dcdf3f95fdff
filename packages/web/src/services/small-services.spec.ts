import { TestBed } from '@angular/core/testing';
import { EMPTY_BOX } from '@usual-needle/contract';
import { LenientAddresses } from './addresses';
import { Drafts } from './drafts';
import { newId } from './ids';

describe('A1: names that nobody else has', () => {
  it('are made without what only secure origins have', () => {
    const { randomUUID } = crypto;
    Object.defineProperty(crypto, 'randomUUID', { value: undefined, configurable: true });
    try {
      const ids = new Set(Array.from({ length: 500 }, newId));
      expect(ids.size).toBe(500);
      for (const id of ids) expect(id).toMatch(/^[0-9a-f]{32}$/);
    } finally {
      Object.defineProperty(crypto, 'randomUUID', { value: randomUUID, configurable: true });
    }
  });
});

describe('A8: addresses as people type and cut them', () => {
  const addresses = new LenientAddresses();
  for (const [typed, text] of [
    ['/box/1?q=100%', '100%'],
    ['/box/1?q=100%25', '100%'],
    ['/box/1?q=%E0%A4', '%E0%A4'],
    ['/box/1?q=%zz%20a', '%zz a'],
    ['/box/1?q=%C5%81ucja', 'Łucja'],
  ] as const) {
    it(`${typed} is “${text}”`, () => expect(addresses.parse(typed).queryParams['q']).toBe(text));
  }
});

describe('B8: drafts', () => {
  let drafts: Drafts;
  beforeEach(() => {
    localStorage.clear();
    drafts = TestBed.inject(Drafts);
  });
  afterEach(() => localStorage.clear());

  it('are there again after a reload, each for its own box, until they are forgotten', () => {
    drafts.write('box 7', { box: { ...EMPTY_BOX, need: 'any word' }, version: 3 });
    drafts.write('table 7', { box: { ...EMPTY_BOX, flip: true }, version: null });
    const later = new Drafts();
    expect(later.read('box 7')).toEqual({ box: { ...EMPTY_BOX, need: 'any word' }, version: 3 });
    expect(later.read('table 7')).toEqual({ box: { ...EMPTY_BOX, flip: true }, version: null });
    later.forget('box 7');
    expect(new Drafts().read('box 7')).toBeUndefined();
    expect(new Drafts().read('table 7')).toBeDefined();
  });

  it('last as long as the page where the browser keeps nothing', () => {
    const full = spyOn(Storage.prototype, 'setItem').and.throwError('full');
    drafts.write('box 1', { box: { ...EMPTY_BOX, flip: true }, version: 1 });
    expect(drafts.read('box 1')).toEqual({ box: { ...EMPTY_BOX, flip: true }, version: 1 });
    expect(full).toHaveBeenCalled();
  });

  it('that cannot be read are none', () => {
    for (const text of ['{', 'null', '7', '{"box":null}', '{"box":"x"}']) {
      localStorage.setItem('usual-needle draft box 9', text);
      expect(drafts.read('box 9')).withContext(text).toBeUndefined();
    }
  });
});

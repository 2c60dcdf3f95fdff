import { sheetKey, type SheetActions } from './sheet-keys';

describe('B5: the keys of the sheet', () => {
  let done: string[];
  let peeking: boolean;
  const actions: SheetActions = {
    addStrand: () => done.push('strand'),
    flip: () => done.push('flip'),
    enter: (backwards) => done.push(backwards ? 'enter back' : 'enter'),
    undo: () => done.push('undo'),
    redo: () => done.push('redo'),
    unpeek: () => peeking && done.push('unpeek') > 0,
    keys: () => done.push('keys'),
    toBox: () => done.push('box'),
    building: () => true,
  };
  let root: HTMLElement;
  beforeEach(() => {
    done = [];
    peeking = false;
    root = document.createElement('div');
    root.innerHTML =
      '<un-search-box><input id="in"><button id="clear"></button></un-search-box><p id="out" tabindex="0"></p><div class="p-popover"><input id="pop"></div><dialog open><p id="said"></p></dialog>';
    document.body.append(root);
  });
  afterEach(() => root.remove());

  function press(at: string, key: string, more: KeyboardEventInit = {}): boolean {
    const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true, ...more });
    root
      .querySelector(at)!
      .addEventListener('keydown', (seen) => sheetKey(seen as KeyboardEvent, actions), { once: true });
    root.querySelector(at)!.dispatchEvent(event);
    return event.defaultPrevented;
  }

  const cases: [at: string, key: string, more: KeyboardEventInit, does: string[]][] = [
    ['#in', 'Enter', {}, ['enter']],
    ['#in', 'Enter', { shiftKey: true }, ['enter back']],
    ['#in', 'Enter', { isComposing: true }, []],
    ['#in', 'Enter', { keyCode: 229 }, []],
    ['#clear', 'Enter', {}, []],
    ['#out', 'Enter', {}, []],
    ['#in', 'f', { altKey: true, code: 'KeyF' }, ['flip']],
    ['#in', 'ArrowDown', { altKey: true }, ['strand']],
    ['#in', 'ArrowDown', { altKey: true, isComposing: true }, []],
    ['#in', '/', {}, []],
    ['#out', '/', {}, ['box']],
    ['#out', '?', {}, ['keys']],
    ['#in', '?', {}, []],
    ['#in', 'z', { ctrlKey: true }, []],
    ['#out', 'z', { ctrlKey: true }, ['undo']],
    ['#out', 'Z', { metaKey: true, shiftKey: true }, ['redo']],
    ['#pop', 'f', { altKey: true, code: 'KeyF' }, []],
    ['#said', '/', {}, []],
  ];
  for (const [at, key, more, does] of cases) {
    it(`${key} ${JSON.stringify(more)} at ${at} does ${does.join() || 'nothing'}`, () => {
      expect(press(at, key, more)).toBe(does.length > 0);
      expect(done).toEqual(does);
    });
  }

  it('Esc closes the record beside the rows, if there is one, and is left to others else', () => {
    expect(press('#out', 'Escape')).toBeFalse();
    peeking = true;
    expect(press('#out', 'Escape')).toBeTrue();
    expect(done).toEqual(['unpeek']);
  });
});

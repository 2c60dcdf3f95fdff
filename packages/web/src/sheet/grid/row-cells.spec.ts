import type { LaidOutColumn } from '../state/layout';
import { type CellsLook, RowCells, type RowContent } from './row-cells';

function column(name: string, kind: LaidOutColumn['kind'] = 'text', width = 120): LaidOutColumn {
  return { name, kind, spec: { name, kind }, width, code: false };
}

const COLUMNS = [column('Thing'), column('Price', 'number')];
const LOOK: CellsLook = { columns: COLUMNS, lead: -1, active: -1, from: -1, to: -1 };

function content(cells: readonly string[], more: Partial<RowContent> = {}): RowContent {
  return { cells, marks: [], columns: COLUMNS.map(({ name }) => name), ...more };
}

describe('the cells of a row', () => {
  let row: HTMLElement;
  let drawn: RowCells;
  const cells = (): HTMLElement[] => [...row.querySelectorAll<HTMLElement>('.cell')];
  beforeEach(() => {
    row = document.createElement('div');
    drawn = new RowCells(row);
  });

  it('use their nodes again, and put elements round marks only', () => {
    drawn.draw(content(['black umbrella', '12'], { marks: [[0, 6, 14, 1]] }), LOOK);
    const [thing, price] = cells();
    expect(thing.innerHTML).toBe('black <span class="mark k1">umbrella</span>');
    const text = price.firstChild;
    drawn.draw(content(['green umbrella', '13'], { marks: [[0, 0, 5, 2]] }), LOOK);
    expect(thing.innerHTML).toBe('<span class="mark k2">green</span> umbrella');
    expect(price.firstChild).toBe(text);
    expect(price.textContent).toBe('13');
    drawn.draw(undefined, LOOK);
    expect(cells().map(({ textContent }) => textContent)).toEqual(['', '']);
  });

  it('are drawn again where only their marks are others', () => {
    drawn.draw(content(['umbrella', ''], { marks: [[0, 0, 2, 1]] }), LOOK);
    drawn.draw(content(['umbrella', ''], { marks: [[0, 0, 3, 1]] }), LOOK);
    expect(cells()[0].querySelector('.mark')?.textContent).toBe('umb');
    drawn.draw(content(['umbrella', '']), LOOK);
    expect(cells()[0].querySelector('.mark')).toBeNull();
  });

  it('go on saying why they do not fit their column, one such text after another', () => {
    drawn.draw(content(['a', 'some']), LOOK);
    const [, price] = cells();
    expect(price.title).toContain('This is no number');
    drawn.draw(content(['a', 'many']), LOOK);
    expect(price.title).toContain('This is no number');
    expect(price.getAttribute('aria-description')).toBe(price.title);
    drawn.draw(content(['a', '7']), LOOK);
    expect([price.title, price.getAttribute('aria-description'), price.className]).toEqual([
      '',
      null,
      'cell number fits',
    ]);
  });

  it('have a title where they may be cut off, and nothing that cuts them where they are not', () => {
    const long = 'a black umbrella with a wooden handle';
    drawn.draw(content([long, '']), LOOK);
    const [thing] = cells();
    expect([thing.title, thing.classList.contains('fits')]).toEqual([long, false]);
    drawn.draw(content(['umbrella', '']), LOOK);
    expect([thing.title, thing.classList.contains('fits')]).toEqual(['', true]);
  });

  it('follow their columns: others, in another order, narrower', () => {
    drawn.draw(content(['umbrella', '7']), LOOK);
    const narrow = [column('Price', 'number', 60), column('Thing', 'text', 60), column('Place')];
    drawn.draw(content(['umbrella', '7']), { ...LOOK, columns: narrow });
    expect(cells().map(({ textContent }) => textContent)).toEqual(['7', 'umbrella', '']);
    expect(cells().map(({ style }) => style.left)).toEqual(['0px', '60px', '120px']);
    expect(cells()[1].classList.contains('fits')).toBe(false);
    drawn.draw(content(['umbrella', '7']), LOOK);
    expect(cells().map(({ textContent }) => textContent)).toEqual(['umbrella', '7']);
  });

  it('show the one gone to and the block selected, and what is on its way', () => {
    drawn.draw(content(['a', 'b'], { states: new Map([['Thing', 'waiting']]) }), {
      ...LOOK,
      active: 1,
      from: 0,
      to: 1,
    });
    expect(cells().map(({ id }) => id)).toEqual(['', 'active-cell']);
    expect(cells().map((cell) => cell.getAttribute('aria-selected'))).toEqual(['true', 'true']);
    expect(cells()[0].dataset['state']).toBe('waiting');
    drawn.draw(content(['a', 'b']), LOOK);
    expect(row.querySelector('[id], [aria-selected], [data-state], .active, .selected')).toBeNull();
  });
});

/** The actions of the keys in the grid: those of any grid (ARIA Authoring Practices, Grid), and those of keeping its rows. */
export interface GridActions {
  readonly row: number;
  readonly column: number;
  /** Rows of a page. */
  readonly page: number;
  readonly moveTo: (row: number, further: boolean) => void;
  readonly moveAside: (column: number, further: boolean) => void;
  /** Selects the row gone to, or lets it go; the others that are selected stay so. */
  readonly toggle: () => void;
  readonly peek: () => void;
  /** Opens the cell, its field having the focus by the time this returns. @param typing true if the key itself is to go into it */
  readonly open: (typing?: boolean) => boolean;
  readonly blank: () => void;
  readonly fillDown: () => void;
  /** @returns false if the browser is to copy the text that is selected */
  readonly copy: () => boolean;
  readonly removeRows: () => void;
  /** Selects all rows on show. */
  readonly all: () => void;
  /** Back to one cell. @returns false if no more than that was selected */
  readonly single: () => boolean;
  /** False where rows are only read. */
  readonly edits: boolean;
}

/** Keys that the sheet has another use for, wherever the focus is. */
const OTHERS = ['/', '?'];

/** @returns false for a key that means nothing here, or that goes on into the cell which it has opened */
export function gridKey(event: KeyboardEvent, actions: GridActions): boolean {
  const { key, shiftKey: further, altKey } = event;
  if (altKey) return false;
  const whole = event.ctrlKey || event.metaKey;
  const { row, column, page, edits } = actions;
  const does: Readonly<Record<string, () => unknown>> = {
    ArrowDown: () => actions.moveTo(whole ? Infinity : row + 1, further),
    ArrowUp: () => actions.moveTo(whole ? 0 : row - 1, further),
    ArrowRight: () => actions.moveAside(whole ? Infinity : column + 1, further),
    ArrowLeft: () => actions.moveAside(whole ? 0 : column - 1, further),
    PageDown: () => actions.moveTo(row + page, further),
    PageUp: () => actions.moveTo(row - page, further),
    Home: () => (whole ? actions.moveTo(0, further) : actions.moveAside(0, further)),
    End: () => (whole ? actions.moveTo(Infinity, further) : actions.moveAside(Infinity, further)),
    ' ': () => (whole ? actions.toggle() : actions.peek()),
    Escape: () => actions.single(),
    ...(whole && { c: actions.copy, C: actions.copy, a: actions.all, A: actions.all }),
    ...(edits && keeping(actions, whole, further)),
  };
  const work = does[key] as (() => unknown) | undefined;
  if (work) return work() !== false;
  // One sign, whatever its length in the text, or the beginning of one that is composed.
  const typing = [...key].length === 1 || key === 'Process' || key === 'Dead';
  if (edits && !whole && typing && !OTHERS.includes(key)) actions.open(true);
  return false;
}

function keeping(actions: GridActions, whole: boolean, further: boolean): Record<string, () => unknown> {
  if (whole) return { d: actions.fillDown, D: actions.fillDown, Delete: actions.removeRows };
  return {
    F2: () => actions.open(),
    Delete: actions.blank,
    Backspace: actions.blank,
    ...(!further && { Enter: () => actions.open() }),
  };
}

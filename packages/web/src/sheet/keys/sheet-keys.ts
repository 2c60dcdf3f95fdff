/** The actions of the keys of the sheet, wherever the focus is. */
export interface SheetActions {
  readonly addStrand: () => void;
  readonly flip: () => void;
  readonly enter: (backwards: boolean) => void;
  readonly undo: () => void;
  readonly redo: () => void;
  /** Closes the record beside the rows. @returns false if there is none */
  readonly unpeek: () => boolean;
  readonly keys: () => void;
  readonly toBox: () => void;
  readonly building: () => boolean;
}

/** Does what a key means. Nothing reacts while an input method composes, nor to a key that somebody has taken already. */
export function sheetKey(event: KeyboardEvent, actions: SheetActions): void {
  if (event.isComposing || event.keyCode === 229 || event.defaultPrevented) return;
  const target = event.target as HTMLElement;
  const typing = /^(INPUT|TEXTAREA)$/.test(target.tagName) || target.isContentEditable;
  // In a popover or a dialog keys are its own.
  const inside = target.closest('.p-popover, .p-select-overlay, .p-datepicker-panel, dialog, [role="dialog"]') !== null;
  const does = (work: () => unknown): void => {
    event.preventDefault();
    work();
  };
  const command = event.ctrlKey || event.metaKey;
  if (inside) return;
  if (event.altKey && event.key === 'ArrowDown' && actions.building()) does(actions.addStrand);
  else if (event.altKey && event.code === 'KeyF') does(actions.flip);
  else if (event.key === 'Enter' && (target.closest('un-search-box') || target.closest('un-record-grid .scroller'))) {
    if (target.tagName !== 'BUTTON') does(() => actions.enter(event.shiftKey));
  } else if (command && event.key.toLowerCase() === 'z' && !typing)
    does(() => (event.shiftKey ? actions.redo() : actions.undo()));
  else if (event.key === 'Escape' && !typing) {
    if (actions.unpeek()) event.preventDefault();
  } else if (event.key === '?' && !typing) does(actions.keys);
  else if (event.key === '/' && !typing && !command) does(actions.toBox);
}

/** Why an edit, or its undoing, is not done: told to whoever asked for it. */
import type { Clash } from '@usual-needle/contract';

/** Rows were changed by somebody else since the version that an edit was made on. */
export class RowClash extends Error {
  constructor(readonly ids: readonly number[]) {
    super(`Rows ${ids.join(', ')} were changed in the meantime.`);
  }
}

/** Cells were changed by somebody else since they were seen. */
export class CellClash extends Error {
  constructor(readonly clashes: readonly Clash[]) {
    super(`${clashes.length} cells or rows were changed in the meantime.`);
  }
}

/** The edit is not one that the table can take, and why, in words. */
export class CannotEdit extends Error {}

/** The key of an edit was used for another one before. */
export class KeyTaken extends Error {
  constructor() {
    super('Its key was used for another edit before. Send it again under a key of its own.');
  }
}

/** Something that happened later stands on a change. */
export class CannotUndo extends Error {
  /** @param part true if some of it can be undone all the same */
  constructor(
    message: string,
    readonly part = false,
  ) {
    super(message);
  }
}

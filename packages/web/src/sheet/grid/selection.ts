import { computed, Injectable, signal } from '@angular/core';

/** A block of cells: rows by their places in the list, columns by theirs among those on show; all four inclusive. */
export interface Block {
  readonly top: number;
  readonly bottom: number;
  readonly left: number;
  readonly right: number;
}

/** The cell gone to, and the block of cells from where the selecting began to there. */
@Injectable()
export class Selection {
  /** Place of the row gone to last. */
  readonly at = signal<number | undefined>(undefined);
  /** Place of the column gone to; -1 before any. */
  readonly column = signal(-1);
  private readonly anchor = signal<{ readonly row: number; readonly column: number } | undefined>(undefined);

  /** The block; of one cell only where nothing further is selected. */
  readonly block = computed<Block | undefined>(
    () => {
      const [row, column] = [this.at(), this.column()];
      if (row === undefined || column < 0) return undefined;
      const from = this.anchor() ?? { row, column };
      return {
        top: Math.min(row, from.row),
        bottom: Math.max(row, from.row),
        left: Math.min(column, from.column),
        right: Math.max(column, from.column),
      };
    },
    { equal: (a, b) => JSON.stringify(a) === JSON.stringify(b) },
  );
  readonly isMany = computed(() => {
    const block = this.block();
    return block !== undefined && (block.top < block.bottom || block.left < block.right);
  });

  /** Goes to a cell. @param extends the block reaches there from where it began */
  goTo(row: number, column: number, further = false): void {
    if (!further) this.anchor.set(undefined);
    else if (!this.anchor()) this.anchor.set({ row: this.at() ?? row, column: Math.max(0, this.column()) });
    this.at.set(row);
    this.column.set(column);
  }

  /** Rows came or went above: the same cells are elsewhere in the list. */
  shift(by: number): void {
    const at = this.at();
    if (at !== undefined) this.at.set(Math.max(0, at + by));
    this.anchor.update((anchor) => anchor && { ...anchor, row: Math.max(0, anchor.row + by) });
  }

  single(): void {
    this.anchor.set(undefined);
  }

  clear(): void {
    this.anchor.set(undefined);
    this.at.set(undefined);
  }
}

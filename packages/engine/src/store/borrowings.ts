/** The columns of a table whose cells are those of other tables, looked up when rows come in. */
import type { Borrowing } from './borrowing.js';
import type { Row } from './segment.js';

export class Borrowings {
  private readonly byColumn = new Map<number, Borrowing>();

  of(column: number): Borrowing | undefined {
    return this.byColumn.get(column);
  }

  put(column: number, borrowing: Borrowing): void {
    this.byColumn.set(column, borrowing);
  }

  /** Cells as they came, with those of borrowed columns looked up. */
  filledCells(cells: readonly string[]): readonly string[] {
    if (this.byColumn.size === 0) return cells;
    const filled = [...cells];
    for (const [column, { key, find }] of this.byColumn) {
      while (filled.length <= column) filled.push('');
      filled[column] = find(cells[key] ?? '');
    }
    return filled;
  }

  filledRow(row: Row): Row {
    return this.byColumn.size === 0 ? row : { id: row.id, cells: this.filledCells(row.cells) };
  }
}

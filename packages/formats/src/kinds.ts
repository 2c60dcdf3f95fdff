/** Kinds of columns, found while rows stream by. */
import { KindTally, type KindGuess } from '@usual-needle/engine';

export class KindFinder {
  private readonly columns: KindTally[];

  constructor(columns: number) {
    this.columns = Array.from({ length: columns }, () => new KindTally());
  }

  /** Rows that are longer than those before bring further columns. */
  add(rows: readonly (readonly string[])[]): void {
    for (const row of rows) {
      while (this.columns.length < row.length) this.columns.push(new KindTally());
      for (let i = 0; i < this.columns.length; i++) if (!this.columns[i].isText) this.columns[i].add(row[i] ?? '');
    }
  }

  done(): KindGuess[] {
    return this.columns.map((column) => column.guess());
  }
}

/** Where the cells of a borrowed column come from: another table, by the cells of a column of this one. */
export interface Borrowing {
  /** Number of the column of this table whose cells are looked up. */
  readonly key: number;
  /** Finds what is borrowed for a cell of it; '' for nothing. */
  readonly find: (cell: string) => string;
}

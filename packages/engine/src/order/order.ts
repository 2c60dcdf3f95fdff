/** The rows of a table in some order. */
export interface Order {
  /** Slots of the rows there are, first to last. */
  readonly slots: Uint32Array;
  /** Place of a slot; void for a removed row's. */
  position(slot: number): number;
}

/** The record of a sort of trouble while a file is looked through, and of a column: how its cells could be read, and which do not fit. */
import { KindTally, WAYS, type Way } from '@usual-needle/engine';
import { Spellings } from './spellings.js';
import { PLACES, type SampleRow } from './told-look.js';

/** The count of cells after which a way of reading that too many of them do not fit is given up. */
const SETTLED = 2_000;
const GIVEN_UP = 0.3;

export interface Sort {
  count: number;
  readonly examples: { readonly line: number; readonly text: string }[];
  readonly rows: SampleRow[];
  readonly places: Uint32Array;
}

export const newSort = (): Sort => ({ count: 0, examples: [], rows: [], places: new Uint32Array(PLACES) });

export class LookedColumn {
  readonly tally = new KindTally();
  /** The cells that do not fit each way of reading that is still likely. */
  readonly misfits = new Map<Way, Sort>(WAYS.map((way) => [way, newSort()]));
  /** Cells that say in words that there is no value, and dates whose years have two digits: they are told by themselves. */
  readonly noValues = newSort();
  readonly shortYears = newSort();
  readonly spellings = new Spellings();

  /** All that is told of the column. */
  get sorts(): readonly Sort[] {
    return [...this.misfits.values(), this.noValues, this.shortYears];
  }

  add(cell: string, tell: (sort: Sort, text: string) => void): void {
    const read = this.tally.add(cell);
    if (!read) return;
    this.spellings.add(cell);
    if (read.noValue) tell(this.noValues, cell);
    else if (read.short.length > 0) tell(this.shortYears, cell);
    else for (const [way, sort] of this.misfits) if (!read.ways.includes(way)) tell(sort, cell);
    if (this.tally.filled !== SETTLED) return;
    for (const [way, { count }] of this.misfits) if (count > SETTLED * GIVEN_UP) this.misfits.delete(way);
  }
}

/** Two places become one. */
export function halve(places: Uint32Array): void {
  for (let i = 0; i < PLACES; i++) places[i] = i < PLACES / 2 ? places[2 * i] + places[2 * i + 1] : 0;
}

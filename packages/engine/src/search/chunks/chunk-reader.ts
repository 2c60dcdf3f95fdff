/** An automaton over the distinct values of columns, chunk by chunk. */
import { type Dfa, spend } from '../../automaton/index.js';
import { type Cell, type ColumnSegment, isValued, type SharedChunks, type WholeBytes } from '../../store/index.js';
import { mostFolded } from '../../text/index.js';
import type { ChunkReading } from './chunk-reading.js';
import { followChunks } from './chunk-threads.js';
import { ChunkWalk } from './chunk-walk.js';
import { hasUntold, NO, UNTOLD, YES } from './verdicts.js';

/** Letters that are about as much work as those of most values that are followed chunk by chunk. */
const FEW_LETTERS = 64;

/** Asks the distinct values of columns, and remembers from segment to segment. */
export class ChunkReader {
  private readonly walks = new Map<SharedChunks, ChunkWalk>();

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {}

  /**
   * @param asked 1 for each value that is asked; those that do not hit become 0. Of a reading that was stopped, as it left it
   * @param test what is asked of a cell that cannot be told chunk by chunk
   * @throws TimeIsUp between two such cells
   */
  judge(column: ColumnSegment, asked: WholeBytes, test: (cell: Cell) => boolean): void {
    if (!hasUntold(asked)) {
      const { chunks } = column;
      let walk = this.walks.get(chunks.shared);
      if (!walk) this.walks.set(chunks.shared, (walk = new ChunkWalk(this.dfa, this.reading)));
      walk.ask(chunks, asked);
      if (!hasUntold(asked)) return;
    }
    for (let value = asked.indexOf(UNTOLD); value >= 0; value = asked.indexOf(UNTOLD, value + 1)) {
      const { threads, least } = this.dfa;
      if (threads) {
        spend(FEW_LETTERS);
        asked[value] = followChunks(threads, this.reading, column.chunks, value, least);
        if (asked[value] !== UNTOLD) continue;
      }
      const cell = column.valueCell(value);
      spend(cell.raw.length);
      asked[value] = !this.isTooShort(cell) && test(cell) ? YES : NO;
    }
  }

  /** Tells whether a cell need not even be folded. One that is shown in another way than it is kept may have more letters then. */
  private isTooShort({ raw, column }: Cell): boolean {
    return raw.length < this.dfa.least && !isValued(column) && mostFolded(raw) < this.dfa.least;
  }
}

/** Tables that are deleted and brought back: in the database, in the search threads, and on the sheets and shelves that are open. */
import type { TableSummary } from '@usual-needle/contract';
import type { Data } from '../data/data.js';
import type { SearchThreads } from '../threads/search-threads.js';
import type { Follower } from './follower.js';

export class Removal {
  constructor(
    private readonly data: Pick<Data, 'tables' | 'changes'>,
    private readonly threads: SearchThreads,
    private readonly follower: Follower,
  ) {}

  /** Deletes a table; it can be brought back for some days. @returns false if there is none */
  async remove(id: number): Promise<boolean> {
    if (!(await this.data.tables.delete(id))) return false;
    await this.threads.drop(id);
    this.follower.gone(id);
    await this.told(id);
    return true;
  }

  /** Brings a deleted table back. @returns undefined if there is none */
  async restore(id: number): Promise<TableSummary | undefined> {
    const table = await this.data.tables.restore(id);
    if (!table) return undefined;
    await this.threads.load(table);
    await this.told(id);
    return table;
  }

  private async told(id: number): Promise<void> {
    this.follower.lent(id);
    await this.data.changes.tell(id);
    this.follower.shelf();
  }
}

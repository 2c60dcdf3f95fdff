/** A host as it is called from another thread: outcomes go across as they are, errors would arrive without their class. */
import type {
  Change,
  Column,
  ExplainRequest,
  Explanation,
  NextMatch,
  NextRequest,
  Offers,
  OffersRequest,
  Pairing,
  PairingCounts,
  Scope,
  SearchRequest,
  SuggestedPairing,
  TakenFacts,
  TakeOutRequest,
} from '@usual-needle/contract';
import { transfer } from 'comlink';
import { AnsweredTogether } from './answered-together.js';
import { PackedTable, PackFile, type PackedAs } from './pack-file.js';
import { packPath } from './pack-folder.js';
import { handedOver, packed, type PackedRows } from '../take-out/packed-rows.js';
import { PARTED } from '../data/records.js';
import type { Answered, TableQuestion } from './together.js';
import {
  answered,
  Host,
  type Bytes,
  type ColumnKeys,
  type OtherTable,
  type Outcome,
  type TakingOut,
} from '@usual-needle/host';

/** Answers whose bytes are handed over, and not copied. */
function handedOn(some: Answered): Answered {
  const bytes = some.answered.flatMap(([, told]) => (told.is === 'answered' ? [told.value.buffer] : []));
  return transfer(some, bytes);
}

export class HostThread {
  private readonly host = new Host();
  private reading: Promise<void> = Promise.resolve();
  /** Packs that were read and nobody has asked for yet. */
  private readonly unpacked = new Map<number, PackedAs>();
  /** Packs that were asked for, and may be trusted. */
  private readonly offered = new Map<number, PackedAs>();
  /** Rows that are being taken out, by the number that whoever takes them gave them. */
  private readonly takings = new Map<number, TakingOut>();
  private readonly together = new AnsweredTogether(({ scope, id, request }) => this.search(scope, id, request));

  begin(id: number, columns: readonly Column[]): void {
    this.offered.delete(id);
    this.host.begin(id, columns);
  }

  /** @param text see `Tables.rowsText` */
  append(id: number, text: string): Promise<void> {
    const rows = text.split(PARTED).map((record) => {
      const at = record.indexOf(' ');
      return { id: Number(record.slice(0, at)), cells: JSON.parse(record.slice(at + 1)) as string[] };
    });
    return this.host.append(id, rows);
  }

  /** Does what `append` does, of rows that are numbered one by one. @param text see `recordsText` */
  appendFrom(id: number, first: number, text: string): Promise<void> {
    const rows = JSON.parse(`[${text.replaceAll(PARTED, ',')}]`) as string[][];
    return this.host.append(
      id,
      rows.map((cells, i) => ({ id: first + i, cells })),
    );
  }

  /** @param columns if they are others than at the beginning */
  finish(id: number, change: number, columns?: readonly Column[]): Promise<void> {
    return this.host.finish(id, change, columns);
  }

  drop(id: number): void {
    this.host.drop(id);
  }

  apply(change: Change): ReturnType<Host['applied']> {
    return this.host.applied(change);
  }

  /** Bytes of this thread's own heap, and of what it holds beside it. */
  memory(): { heap: number; others: number } {
    const { heapUsed, external } = process.memoryUsage();
    return { heap: heapUsed, others: external };
  }

  changeOf(id: number): number | undefined {
    return this.host.changeOf(id);
  }

  versionOf(id: number): number | undefined {
    return this.host.versionOf(id);
  }

  /**
   * Packs a table into a file.
   * @param change the one that it is at, and when that was
   * @returns false if it is at another one, or changed too much meanwhile, or there is no room; then nothing is there
   */
  async pack(id: number, path: string, { change, at }: Pick<PackedAs, 'change' | 'at'>): Promise<boolean> {
    if (this.host.changeOf(id) !== change) return false;
    const file = await PackFile.begin(path);
    if (!file) return false;
    try {
      const packed = await this.host.pack(id, (part) => file.add(part));
      if (packed?.change === change) {
        await file.end({ table: id, ...packed, at });
        return true;
      }
    } catch (error) {
      await file.abandon();
      throw error;
    }
    await file.abandon();
    return false;
  }

  /** Reads packs, one after the other, before it is known whether they fit what the database has. */
  readPacks(folder: string, ids: readonly number[]): Promise<void> {
    this.reading = this.reading.then(async () => {
      for (const id of ids) {
        const as = await this.read(id, packPath(folder, id));
        if (as) this.unpacked.set(id, as);
      }
    });
    return this.reading;
  }

  /** Takes a table from its pack. @returns undefined if there is none, or a damaged one; then the table is not there */
  private async read(id: number, path: string): Promise<PackedAs | undefined> {
    const packed = await PackedTable.open(path);
    if (!packed) return undefined;
    try {
      if (packed.as.table !== id) return undefined;
      await this.host.unpack(id, packed.as.columns, await packed.shared(), packed.segments());
      return packed.as;
    } catch {
      return undefined;
    } finally {
      await packed.close();
    }
  }

  /** Gives what the pack of a table says that it is of; undefined without one, or where the table is there. */
  async packedAs(folder: string, id: number): Promise<PackedAs | undefined> {
    await this.reading;
    if (!this.unpacked.has(id)) await this.readPacks(folder, [id]);
    const as = this.unpacked.get(id);
    this.unpacked.delete(id);
    if (as) this.offered.set(id, as);
    return as;
  }

  /** Tables whose packs were read, once all have been. */
  async packed(): Promise<number[]> {
    await this.reading;
    return [...this.unpacked.keys()];
  }

  /** Some rows of a table that was taken from its pack; undefined if it contradicts itself. */
  sample(id: number): ReturnType<Host['sample']> {
    return this.host.sample(id);
  }

  rowCount(id: number): number | undefined {
    return this.host.rowCount(id);
  }

  /** The pack of a table fits: it answers from now on. */
  trust(id: number): void {
    this.host.trust(id, this.offered.get(id)!.change);
    this.offered.delete(id);
  }

  /** Forgets what was read and nobody has asked for: of tables that are not there. */
  async distrust(): Promise<void> {
    await this.reading;
    for (const id of this.unpacked.keys()) this.host.dropUntrusted(id);
    this.unpacked.clear();
  }

  filled(
    scope: Scope,
    id: number,
    rows: readonly (readonly string[])[],
  ): Promise<Outcome<readonly (readonly string[])[]>> {
    return this.host.filled(scope, id, rows);
  }

  pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<Outcome<PairingCounts>> {
    return this.host.pairing(scope, id, pairing, other);
  }

  keys(scope: Scope, id: number): Promise<Outcome<readonly ColumnKeys[]>> {
    return this.host.keys(scope, id);
  }

  pairings(own: readonly ColumnKeys[], others: readonly OtherTable[]): Promise<readonly SuggestedPairing[]> {
    return this.host.pairings(own, others);
  }

  warmUp(): Promise<void> {
    return this.host.warmUp();
  }

  leave(session: string): void {
    this.host.leave(session);
  }

  search(scope: Scope, id: number, request: SearchRequest): Promise<Outcome<Bytes>> {
    return this.host.searchBytes(scope, id, request);
  }

  /** Answers questions that are put together. @returns those that are answered first */
  async searchTogether(questions: readonly TableQuestion[]): Promise<Answered> {
    return handedOn(await this.together.put(questions));
  }

  /** @param of what the last answer said of those that were not in it */
  async restOf(of: number): Promise<Answered> {
    return handedOn(await this.together.fetch(of));
  }

  explain(scope: Scope, id: number, request: ExplainRequest): Promise<Outcome<Explanation>> {
    return this.host.explain(scope, id, request);
  }

  offers(scope: Scope, id: number, request: OffersRequest): Promise<Outcome<Offers>> {
    return this.host.offers(scope, id, request);
  }

  next(scope: Scope, id: number, request: NextRequest): Promise<Outcome<NextMatch>> {
    return this.host.next(scope, id, request);
  }

  /** Begins to take rows out, see `Host.takeOut`. @param taking its number */
  async takeOut(taking: number, scope: Scope, id: number, request: TakeOutRequest): Promise<Outcome<TakenFacts>> {
    const outcome = await this.host.takeOut(scope, id, request);
    if (outcome.is !== 'answered') return outcome;
    this.takings.set(taking, outcome.value);
    return answered(await outcome.value.facts());
  }

  /** The next rows; undefined once all have left, or the taking was ended. */
  async takenRows(taking: number): Promise<PackedRows | undefined> {
    const some = (await this.takings.get(taking)?.next()) ?? [];
    if (some.length === 0) return undefined;
    const rows = packed(some);
    return transfer(rows, handedOver(rows));
  }

  /** Nobody takes any more of it. */
  endTaking(taking: number): void {
    this.takings.get(taking)?.end();
    this.takings.delete(taking);
  }
}

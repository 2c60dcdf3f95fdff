/**
 * A run of a source: what is there is fetched, compared with the table as a refresh is, looked at with care, and written as one change,
 * with what is noted of the run in the same transaction. So no run is done twice, and none is lost without a word.
 */
import { createHash, type Hash } from 'node:crypto';
import {
  columnAt,
  type Refresh,
  type RunCounts,
  type Source,
  type SourceSecret,
  type TableSummary,
} from '@usual-needle/contract';
import { FileProblem } from '@usual-needle/formats';
import type { Logger } from 'pino';
import type { Data } from '../data/data.js';
import { dependentsOf } from '../data/dependents.js';
import { RowClash } from '../data/refusals.js';
import type { Seen } from '../data/schema.js';
import { SourceOvertaken, type Ended, type KeptSource } from '../data/sources.js';
import type { RefreshBy, RefreshPlan } from '../imports/refresh.js';
import type { Follower } from '../live/follower.js';
import { NothingNew, SourceFailed, SourceWaits } from './failures.js';
import { fromAddress, type Fetched } from './from-address.js';
import type { InTray } from './from-in-tray.js';
import { fromQuery } from './from-query.js';
import { NotFetched, type OwnNetwork } from './own-network.js';
import { checkRhythm, LOOK_MS, NoRhythm, nextFor } from './rhythm.js';
import { CannotUnseal, type Sealing } from './sealing.js';

/** The name that changes by sources are done under, where nobody asked for them. */
const BY_ITSELF = 'Its source';
/** Waits before a source that failed is asked again, in milliseconds; after the last its rhythm goes on. */
const AGAIN_MS = [60_000, 5 * 60_000, 15 * 60_000];

/** A table that is edited while it is compared is compared so often before the run fails. */
const TRIES = 4;

/** The ways to what sources are fetched from. */
export interface Ways {
  readonly network: OwnNetwork;
  /** Addresses of PostgreSQLs, with their passwords, by the names that they are called by. */
  readonly connections: ReadonlyMap<string, string>;
  readonly inTray: InTray | undefined;
  readonly sealing: Sealing;
}

/** A run that is asked for. */
export interface AskedRun {
  readonly due: Date;
  readonly missed: number;
  readonly who?: string | undefined;
  /** Done though it is more than may change, or lacks a column, or has keys that tell no row. */
  readonly anyway?: boolean | undefined;
}

/** The outcome of a run, as far as it does not depend on when it is over. */
type Outcome = Pick<Ended, 'outcome' | 'counts' | 'why' | 'seen'> & {
  readonly plan?: RefreshPlan;
  readonly on?: TableSummary;
};

const number = (count: number): string => count.toLocaleString('en');

export class Runs {
  constructor(
    private readonly data: Data,
    private readonly follower: Follower,
    private readonly ways: Ways,
    private readonly log: Logger,
    private readonly now: () => Date,
  ) {}

  /** Tells what a source would do now, kept or not. @throws SourceFailed, FileProblem, NotFetched, CannotUnseal, NoRhythm */
  async tried(table: TableSummary, source: Source, secret: SourceSecret | undefined): Promise<Refresh> {
    checkRhythm(source.rhythm);
    const fetched = await this.fetched(source, secret, undefined);
    try {
      const plan = await this.planned(table, source, fetched, { preview: true, anyway: false });
      return { ...plan.told, change: table.change };
    } finally {
      await fetched.done(false);
    }
  }

  /** Does a run, and notes what became of it. @returns what was noted; undefined where something else came in between */
  async run(kept: KeptSource, asked: AskedRun, tries = TRIES): Promise<Ended | undefined> {
    let fetched: Fetched | undefined;
    try {
      const secret = kept.secret === null ? undefined : await this.ways.sealing.unseal(kept.secret);
      const isAskedByHand = asked.who !== undefined;
      fetched = await this.fetched(kept.source, secret, isAskedByHand ? undefined : (kept.seen ?? undefined));
      return await this.compared(kept, asked, fetched);
    } catch (error) {
      if (error instanceof SourceOvertaken) return undefined;
      // Somebody edited the table while it was compared: it is compared anew.
      if (error instanceof RowClash && tries > 1) {
        await fetched?.done(false).catch(() => undefined);
        return await this.run(kept, asked, tries - 1);
      }
      const outcome = this.outcomeOf(error, kept);
      const ended = this.endedAs(kept, asked, outcome);
      await this.data.sources.ended(kept, ended).catch((overtaken: unknown) => {
        if (!(overtaken instanceof SourceOvertaken)) throw overtaken;
      });
      return ended;
    } finally {
      await fetched?.done(false).catch(() => undefined);
    }
  }

  private async compared(kept: KeptSource, asked: AskedRun, fetched: Fetched): Promise<Ended | undefined> {
    const table = await this.data.tables.find(kept.tableId);
    if (!table) return undefined;
    const { source } = kept;
    const anyway = asked.anyway === true;
    const read = createHash('sha256');
    const bytes = digested(fetched.bytes, read);
    const plan = await this.planned(table, source, { ...fetched, bytes }, { preview: false, anyway });
    const seen: Seen = { ...fetched.seen, digest: read.digest('base64') };
    // A file is put aside, whatever is in it.
    const isKnown = seen.digest === kept.seen?.digest && !('file' in source.from);
    if (asked.who === undefined && isKnown) throw new NothingNew();
    const { added, changed, gone } = plan.told;
    const counts = { added, changed, gone: source.gone === 'remove' ? gone : 0 };
    const why = anyway ? undefined : await this.whyWaiting(table, source, plan, counts);
    if (why !== undefined) {
      const ended = this.endedAs(kept, asked, { outcome: 'waits', why, counts, seen });
      await this.data.sources.ended(kept, ended);
      return ended;
    }
    const isSame = plan.edits.length === 0 && !plan.columns;
    const ended = this.endedAs(kept, asked, { outcome: isSame ? 'same' : 'done', counts, seen });
    if (isSame) await this.data.sources.ended(kept, ended);
    else if (!(await this.written(kept, table, plan, asked, ended))) return undefined;
    await fetched.done(true).catch((error: unknown) => this.log.warn({ err: error }, 'a file stays in the in-tray'));
    return ended;
  }

  /** Goes on without what a source waits for: a file is put aside with the reason, and what is there is not asked about again. */
  async leave(kept: KeptSource, who: string | undefined): Promise<void> {
    const { from } = kept.source;
    const why = kept.waiting?.why ?? '';
    const { inTray } = this.ways;
    if ('file' in from && inTray) {
      const [name] = await inTray.whole(from.file);
      if (name !== undefined) await inTray.refuse(name, why);
    }
    const asked = { due: this.now(), missed: 0, who: who ?? BY_ITSELF };
    await this.data.sources.ended(kept, this.endedAs(kept, asked, { outcome: 'left', why }));
  }

  /** Writes what a run changes, and that it is over: both, or neither. @returns false if the table is not there any more */
  private async written(
    kept: KeptSource,
    table: TableSummary,
    plan: RefreshPlan,
    { who }: AskedRun,
    ended: Ended,
  ): Promise<boolean> {
    const { source } = kept;
    const columns = plan.told.matched.map(({ file, table: name }) => ({ file, table: name }));
    const change = await this.data.changes.edit(table.id, 'refreshed', plan.edits, {
      ...{ who: who ?? BY_ITSELF, columns: plan.columns, on: table.change },
      refreshedBy: {
        ...{ key: [...source.key], gone: source.gone, columns },
        ...(plan.tidied && { tidied: plan.tidied }),
      },
      also: (transaction, number) => this.data.sources.ended(kept, { ...ended, change: number }, transaction),
    });
    if (change) await this.follower.made(change);
    return change !== undefined;
  }

  private async planned(
    table: TableSummary,
    source: Source,
    { bytes, hints }: Fetched,
    { preview, anyway }: { preview: boolean; anyway: boolean },
  ): Promise<RefreshPlan> {
    const { planRefresh } = await import('../imports/refresh.js');
    await this.data.changes.readyToRefresh(table.id);
    const by: RefreshBy = {
      ...{ key: source.key, gone: source.gone, clashes: 'ours', except: new Set(), preview },
      unclear: anyway ? 'leave' : 'refuse',
      removed: 'stay',
    };
    return planRefresh(this.data.tables, table, { bytes, choices: source.how ?? {}, hints }, by);
  }

  /** The reason why a run is left to the builder, if there is one. */
  private async whyWaiting(
    table: TableSummary,
    { most }: Source,
    { told }: RefreshPlan,
    counts: RunCounts,
  ): Promise<string | undefined> {
    const { changed, gone } = counts;
    if (most !== null && table.rows > 0 && changed + gone > (table.rows * most) / 100) {
      const would = [
        ...(changed > 0 ? [`${number(changed)} of ${number(table.rows)} rows would change`] : []),
        ...(gone > 0
          ? [changed > 0 ? `${number(gone)} would go` : `${number(gone)} of ${number(table.rows)} rows would go`]
          : []),
      ];
      return would.join(', and ');
    }
    const boxes = await this.data.boxes.ofTable(table.id);
    for (const name of told.missing) {
      const [box] = dependentsOf(table.id, name, [table], boxes).boxes;
      if (box && columnAt(table.columns, name) >= 0)
        return `the column “${name}” is missing, which “${box.name}” needs`;
    }
    return undefined;
  }

  private fetched({ from }: Source, secret: SourceSecret | undefined, seen: Seen | undefined): Promise<Fetched> {
    const { network, connections, inTray } = this.ways;
    if ('address' in from) return fromAddress(from.address, secret, seen, network);
    if ('file' in from) {
      if (!inTray) throw new SourceFailed('This server has no in-tray. Whoever runs it names one by --in-tray.');
      return inTray.take(from.file);
    }
    const url = connections.get(from.connection);
    if (url === undefined)
      throw new SourceFailed(
        `This server knows no database called “${from.connection}”. Whoever runs it names them by --connections.`,
      );
    return fromQuery(from.connection, url, from.query);
  }

  private outcomeOf(error: unknown, { tableId }: KeptSource): Outcome {
    if (error instanceof NothingNew) return { outcome: 'same' };
    if (error instanceof FileProblem || error instanceof SourceWaits)
      return { outcome: 'waits', why: plain(error.message) };
    if (
      error instanceof SourceFailed ||
      error instanceof NotFetched ||
      error instanceof CannotUnseal ||
      error instanceof NoRhythm
    )
      return { outcome: 'failed', why: plain(error.message) };
    if (error instanceof RowClash) return { outcome: 'failed', why: 'the table was changed all the while' };
    this.log.error({ err: error, table: tableId }, 'a source could not be run');
    return { outcome: 'failed', why: 'the server could not do it; its log says why' };
  }

  private endedAs(kept: KeptSource, asked: AskedRun, outcome: Outcome): Ended {
    const at = this.now();
    const { rhythm } = kept.source;
    // What only looks whether something is new is not noted each time.
    const isNoted = outcome.outcome !== 'same' || rhythm.every !== 'change' || asked.who !== undefined;
    return {
      ...outcome,
      due: asked.due,
      at,
      missed: asked.missed,
      who: asked.who,
      isNoted,
      next: this.nextAfter(kept, outcome, at),
    };
  }

  private nextAfter({ source, failures, baseAt }: KeptSource, { outcome }: Outcome, at: Date): Date | undefined {
    if (outcome === 'waits') return undefined;
    const next = nextFor(source, at, new Date(baseAt));
    if (outcome !== 'failed') return next;
    const again = at.getTime() + (AGAIN_MS[failures] ?? (next ? Infinity : LOOK_MS));
    return new Date(Math.min(next?.getTime() ?? Infinity, again));
  }
}

/** The same bytes, taken into a digest as they are read. */
async function* digested(bytes: AsyncIterable<Uint8Array>, read: Hash): AsyncGenerator<Uint8Array> {
  for await (const piece of bytes) {
    read.update(piece);
    yield piece;
  }
}

/** A sentence as a part of another. */
function plain(text: string): string {
  return text.replace(/\.$/, '');
}

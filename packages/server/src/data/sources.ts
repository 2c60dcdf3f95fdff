/** Sources as they are kept, and their runs. What a run does to a table and what is noted of it are written together, or not at all. */
import { and, asc, desc, eq, isNotNull, isNull, lte, sql, type SQL } from 'drizzle-orm';
import type { PgColumn } from 'drizzle-orm/pg-core';
import {
  FAILURES_SAID,
  type RunCounts,
  type RunOutcome,
  type Source,
  type SourceRunTold,
  type SourceTold,
} from '@usual-needle/contract';
import type { Transaction } from './committing.js';
import type { Database } from './database.js';
import { sourceRuns, sources, tables, type Seen } from './schema.js';

/** A source, its secret sealed. */
export type KeptSource = typeof sources.$inferSelect;

/** Runs of one table that are told, and days that they are kept for. */
const TOLD = 100;
const RUNS_KEPT_DAYS = 400;

/** A run, over. */
export interface Ended {
  readonly due: Date;
  readonly at: Date;
  readonly outcome: RunOutcome;
  readonly counts?: RunCounts | undefined;
  readonly why?: string | undefined;
  readonly change?: number | undefined;
  readonly missed: number;
  readonly who?: string | undefined;
  /** The next run; undefined where it waits, or comes when something is new. */
  readonly next: Date | undefined;
  readonly seen?: Seen | undefined;
  /** Whether it is noted: one that found nothing new because it only looked is not. */
  readonly isNoted: boolean;
}

/** Something else was written of a source since: what was begun before is over. */
export class SourceOvertaken extends Error {
  constructor() {
    super('The source was changed meanwhile.');
  }
}

function runOf({ tableId: _, due, at, ...run }: typeof sourceRuns.$inferSelect): SourceRunTold {
  return { ...run, due: new Date(due).toISOString(), at: new Date(at).toISOString() };
}

const iso = (moment: string | null): string | null => moment && new Date(moment).toISOString();

export class Sources {
  constructor(private readonly db: Database['db']) {}

  async find(tableId: number): Promise<KeptSource | undefined> {
    return (await this.those(eq(sources.tableId, tableId)))[0];
  }

  /** All of them, those of deleted tables left out. */
  list(): Promise<KeptSource[]> {
    return this.those();
  }

  /** Sources whose run is due, the longest due first. */
  due(now: Date): Promise<KeptSource[]> {
    return this.those(and(isNotNull(sources.nextAt), lte(sources.nextAt, now.toISOString())), sources.nextAt);
  }

  private async those(which?: SQL, order: PgColumn = sources.tableId): Promise<KeptSource[]> {
    const found = await this.db
      .select({ source: sources })
      .from(sources)
      .innerJoin(tables, eq(tables.id, sources.tableId))
      .where(and(isNull(tables.deletedAt), which))
      .orderBy(asc(order));
    return found.map(({ source }) => source);
  }

  /** Keeps a source; what it waited for, and its failures, are over. @returns undefined if the one that is kept is another one by now */
  async keep(
    tableId: number,
    version: number | undefined,
    kept: { source: Source; secret: string | null; base: Date; next: Date | undefined },
  ): Promise<KeptSource | undefined> {
    return this.db.transaction(async (transaction) => {
      const [before] = await transaction.select().from(sources).where(eq(sources.tableId, tableId)).for('update');
      if (before ? before.version !== version : version !== undefined) return undefined;
      const { source, secret, base, next } = kept;
      const isElsewhere = JSON.stringify(before?.source.from) !== JSON.stringify(source.from);
      const values = {
        ...{ source, secret, nextAt: next?.toISOString() ?? null, waiting: null, failures: 0 },
        baseAt: base.toISOString(),
        // What was left, or waited, by another measure is looked at anew.
        seen: null,
        ...(isElsewhere && { inARow: 0 }),
      };
      await transaction
        .insert(sources)
        .values({ tableId, ...values })
        .onConflictDoUpdate({
          target: sources.tableId,
          set: { ...values, version: sql`${sources.version} + 1`, turn: sql`${sources.turn} + 1` },
        });
      await transaction.update(tables).set({ lateSince: null }).where(eq(tables.id, tableId));
      const [now] = await transaction.select().from(sources).where(eq(sources.tableId, tableId));
      return now;
    });
  }

  async end(tableId: number): Promise<void> {
    await this.db.transaction(async (transaction) => {
      await transaction.update(tables).set({ lateSince: null }).where(eq(tables.id, tableId));
      await transaction.delete(sources).where(eq(sources.tableId, tableId));
    });
  }

  /** Notes that a run is over. @param by the transaction that its change is written in @throws SourceOvertaken */
  async ended(kept: KeptSource, run: Ended, by?: Transaction): Promise<void> {
    if (!by) return this.db.transaction((transaction) => this.ended(kept, run, transaction));
    const { outcome, counts, why, next, seen } = run;
    const isGood = outcome === 'done' || outcome === 'same';
    const failures = outcome === 'failed' ? kept.failures + 1 : 0;
    const [at, due] = [run.at.toISOString(), run.due.toISOString()];
    const rowsFrom = isGood ? at : kept.rowsFrom;
    const isTimely = outcome === 'same' && !run.isNoted;
    const noted = await by
      .update(sources)
      .set({
        ...{ turn: kept.turn + 1, nextAt: next?.toISOString() ?? null, failures, rowsFrom },
        inARow: isTimely ? kept.inARow : isGood ? kept.inARow + 1 : 0,
        waiting: outcome === 'waits' ? { since: at, why: why ?? '', counts: counts ?? null } : null,
        ...(seen && { seen }),
      })
      .where(and(eq(sources.tableId, kept.tableId), eq(sources.turn, kept.turn)))
      .returning({ tableId: sources.tableId });
    if (noted.length === 0) throw new SourceOvertaken();
    const isLate = outcome === 'waits' || failures >= FAILURES_SAID;
    if (isGood || isLate)
      await by
        .update(tables)
        .set({ lateSince: isLate ? sql`coalesce(${rowsFrom}::timestamptz, ${tables.changedAt})` : null })
        .where(eq(tables.id, kept.tableId));
    if (!run.isNoted) return;
    const { tableId } = kept;
    // A run that somebody asked for has a moment of its own, after all others.
    const mine = sql`greatest(${due}::timestamptz, (select max(due) + interval '1 millisecond' from ${sourceRuns} where table_id = ${tableId}))`;
    await by.insert(sourceRuns).values({
      ...{ tableId, due: run.who === undefined ? due : mine, at, outcome, missed: run.missed },
      ...{ counts: counts ?? null, why: why ?? null, change: run.change ?? null, who: run.who ?? null },
    });
  }

  /** The last runs of a source, so many at most, the last first. */
  async runs(tableId: number, most = TOLD): Promise<SourceRunTold[]> {
    const found = await this.db
      .select()
      .from(sourceRuns)
      .where(eq(sourceRuns.tableId, tableId))
      .orderBy(desc(sourceRuns.due))
      .limit(most);
    return found.map(runOf);
  }

  /** A source as it is told, with its last run. */
  async told(kept: KeptSource, running: boolean): Promise<SourceTold> {
    const [last] = await this.runs(kept.tableId, 1);
    const { tableId, source, version, secret, nextAt, rowsFrom, inARow, failures, waiting } = kept;
    return {
      ...{ table: tableId, source, version, hasSecret: secret !== null, inARow, failures, waiting, running },
      ...{ next: iso(nextAt), rowsFrom: iso(rowsFrom), last: last ?? null },
    };
  }

  /** Forgets runs of long ago. */
  async tidy(): Promise<void> {
    await this.db.delete(sourceRuns).where(sql`${sourceRuns.due} < now() - make_interval(days => ${RUNS_KEPT_DAYS})`);
  }
}

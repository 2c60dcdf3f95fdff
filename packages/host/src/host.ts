/**
 * What is asked of the tables that are held. Searches run a stretch at a time (`searches.ts`), and so does all that takes its time,
 * so that others are answered in between.
 */
import type {
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
} from '@usual-needle/contract';
import {
  columnNumbers,
  explainSteps,
  letterCounts,
  offering,
  overlapSteps,
  Staying,
  UnknownColumn,
  valueCounts,
  valueRange,
  warmUp,
} from '@usual-needle/engine';
import { wireReason } from './answer.js';
import { Holding } from './holding.js';
import { keySteps, pairingSteps, type ColumnKeys, type OtherTable } from './pairings.js';
import { columnsIn, questionIn } from './scoped.js';
import { Searches } from './searches.js';
import { inStretches, turnOfTheLoop } from './stretches.js';

/** Bars of a number picker's histogram. */
const RANGE_BINS = 24;

export class Host extends Holding {
  private readonly searches = new Searches();

  /** Cells as they are stored, with those of borrowed columns looked up; undefined without the table. @throws StillLoading */
  filled(id: number, rows: readonly (readonly string[])[]): readonly (readonly string[])[] | undefined {
    const held = this.held(id);
    return held && rows.map((cells) => held.table.filledCells(cells));
  }

  /**
   * Gives what a pairing with another table would come to.
   * @param other what of that table may be seen
   * @throws UnknownColumn, StillLoading
   */
  async pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<PairingCounts | undefined> {
    const [held, lender] = [this.held(id), this.held(pairing.table)];
    if (!held || !lender) return undefined;
    columnNumbers(columnsIn(held.table.columns, scope.visible), [pairing.key]);
    columnNumbers(columnsIn(lender.table.columns, other.visible), [pairing.matches]);
    const paired = this.borrowings.pair(held, pairing);
    if (!paired) throw new UnknownColumn(pairing.key);
    return this.inTheBackground(overlapSteps(held.table, paired.key, paired.lender));
  }

  /** Gives what a table's columns look rows up by, for `pairings`, here or in another host. @throws StillLoading */
  async keys(scope: Scope, id: number): Promise<readonly ColumnKeys[] | undefined> {
    const held = this.held(id);
    return held && (await this.inTheBackground(keySteps(held, scope)));
  }

  /** Pairings of a table with those of others that are held here. @param others what may be seen of them */
  async pairings(own: readonly ColumnKeys[], others: readonly OtherTable[]): Promise<readonly SuggestedPairing[]> {
    const there = others.flatMap((other) => {
      const held = this.tables.get(other.id);
      return held && held.change >= 0 ? [{ ...other, held }] : [];
    });
    return (await this.inTheBackground(pairingSteps(own, there))) ?? [];
  }

  /** Gets the platform ready, so that nobody's first keystroke is a slow one; answers others meanwhile. */
  async warmUp(): Promise<void> {
    const steps = warmUp();
    while (!steps.next().done) await turnOfTheLoop();
  }

  /** A session is over, or its asker has gone: what it asked before need not be answered any more. */
  leave(session: string): void {
    this.searches.leave(session);
  }

  /**
   * @returns the answer as JSON, ready to send, so that it is copied between threads once; undefined without the table
   * @throws UnknownColumn, OutOfScope, StillLoading
   */
  async search(scope: Scope, id: number, request: SearchRequest): Promise<string | undefined> {
    const held = this.held(id);
    return held && this.asked(async () => JSON.stringify(await this.searches.answer(held, scope, id, request)));
  }

  /**
   * Why a question finds nothing. Rests between its searches, so that typing never waits for it; typing on ends it.
   * @throws UnknownColumn, OutOfScope, StillLoading
   */
  async explain(scope: Scope, id: number, request: ExplainRequest): Promise<Explanation | undefined> {
    const { question, session, turn = 0 } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const { table } = held;
    const steps = explainSteps(table, questionIn(table.columns, scope, question));
    const stopped = (): boolean => session !== undefined && this.searches.overtaken(session, turn);
    const reasons = await inStretches(steps, stopped);
    return { reasons: (reasons ?? []).map((reason) => wireReason(reason, table)), overtaken: reasons === undefined };
  }

  /** @throws UnknownColumn, OutOfScope, StillLoading */
  async offers(scope: Scope, id: number, request: OffersRequest): Promise<Offers | undefined> {
    const { question, column, of = 'values', holding = '', offset = 0 } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const { table } = held;
    const asked = questionIn(table.columns, scope, question);
    const [number] = columnNumbers(columnsIn(table.columns, scope.narrowable), [column]);
    const search = await this.searches.run(() => offering(table, asked, number));
    if (of === 'range') return { values: [], count: 0, range: valueRange(search, number, RANGE_BINS) ?? null };
    if (of === 'values') return { ...valueCounts(search, number, { holding, offset }), range: null };
    const values = letterCounts(search, number, of);
    return { values, count: values.length, range: null };
  }

  /** @throws UnknownColumn, OutOfScope, StillLoading */
  async next(scope: Scope, id: number, request: NextRequest): Promise<NextMatch | undefined> {
    const { question, from, backwards = false, stays = [] } = request;
    const held = this.held(id);
    if (!held) return undefined;
    const search = await this.searches.run(() => this.searches.searchFor(held.table, scope, id, { question }).search);
    const list = stays.length > 0 ? new Staying(search.view, stays) : search.view;
    return { index: list.nextMatch(from, backwards) ?? null };
  }
}

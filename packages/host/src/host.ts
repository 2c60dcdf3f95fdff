/**
 * The host: it answers questions to the tables that are held. Searches run a stretch at a time (`searches.ts`), and so does all that takes its time,
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
  TakeOutRequest,
} from '@usual-needle/contract';
import {
  columnNumbers,
  explainSteps,
  letterCounts,
  offering,
  overlapSteps,
  Snapshot,
  Staying,
  UnknownColumn,
  valueCounts,
  valueRange,
  warmUp,
} from '@usual-needle/engine';
import { keywordsOf, wireReason } from './answer.js';
import { Holding } from './holding.js';
import { keySteps, pairingSteps, type ColumnKeys, type OtherTable } from './pairings.js';
import { answered, MISSING, OVERTAKEN, refusedQuestion, type Outcome } from './outcome.js';
import { columnsIn, isThere, OutOfScope, questionIn } from './scoped.js';
import { Searches, type Bytes } from './searches.js';
import { inStretches, rest, turnOfTheLoop } from './stretches.js';
import { TakingOut, toldColumns } from './taking-out.js';

// Of the platform, wherever that is: a thread, a browser's worker, a command.
declare class TextDecoder {
  decode(bytes: Uint8Array): string;
}
const decoder = new TextDecoder();

/** Bars of a number picker's histogram. */
const RANGE_BINS = 24;

/** Cells of one row, in the order of its table's columns. */
type StoredCells = readonly string[];

export class Host extends Holding {
  private readonly searches = new Searches();

  /**
   * Looks up the cells of borrowed columns.
   * @param rows cells of rows as they are stored
   * @returns the same rows; cells of columns that the scope does not have are blank
   */
  filled(scope: Scope, id: number, rows: readonly StoredCells[]): Promise<Outcome<readonly StoredCells[]>> {
    return this.of(id, ({ table }) => {
      const seen = table.columns.map((column) => isThere(column, scope.visible));
      const isWhole = !seen.includes(false);
      return answered(
        rows.map((cells) => {
          const filled = table.filledCells(cells);
          return isWhole ? filled : filled.map((cell, i) => (seen[i] ? cell : ''));
        }),
      );
    });
  }

  /**
   * Tells what a pairing with another table would come to.
   * @param other what of that table may be seen
   */
  pairing(scope: Scope, id: number, pairing: Pairing, other: Scope): Promise<Outcome<PairingCounts>> {
    return this.of(id, async (held) => {
      const lender = this.held(pairing.table);
      if (!lender) return MISSING;
      columnNumbers(columnsIn(held.table.columns, scope.visible), [pairing.key]);
      columnNumbers(columnsIn(lender.table.columns, other.visible), [pairing.matches]);
      const paired = this.borrowings.pair(held, pairing);
      if (!paired) throw new UnknownColumn(pairing.key);
      const counts = await this.inTheBackground(overlapSteps(held.table, paired.key, paired.lender));
      return counts ? answered(counts) : MISSING;
    });
  }

  /** Gives what a table's columns look rows up by, for `pairings`, here or in another host. */
  keys(scope: Scope, id: number): Promise<Outcome<readonly ColumnKeys[]>> {
    return this.of(id, async (held) => answered((await this.inTheBackground(keySteps(held, scope))) ?? []));
  }

  /** Pairings of a table with those of others that are held here. @param others what may be seen of them */
  async pairings(own: readonly ColumnKeys[], others: readonly OtherTable[]): Promise<readonly SuggestedPairing[]> {
    const there = others.flatMap((other) => {
      const held = this.tables.get(other.id);
      return held && held.change >= 0 ? [{ ...other, held }] : [];
    });
    return (await this.inTheBackground(pairingSteps(own, there))) ?? [];
  }

  /** Gets the platform ready for what is usual, so that nobody's first keystroke is a slow one; and then, while nobody waits, for the rest. */
  async warmUp(): Promise<void> {
    const steps = warmUp((search) => this.searches.warmUp(search));
    for (let step = steps.next(); !step.done && step.value !== 'usual'; step = steps.next()) await turnOfTheLoop();
    // Without it the first of each kind is slower, and nothing else.
    this.finishWarmingUp(steps).catch(() => undefined);
  }

  private async finishWarmingUp(steps: ReturnType<typeof warmUp>): Promise<void> {
    while (!steps.next().done) await rest(this.others);
  }

  /** A session is over, or its asker has gone: what it asked before need not be answered any more. */
  leave(session: string): void {
    this.searches.leave(session);
  }

  /** @returns the answer, a `SearchAnswer`, as JSON in UTF-8, ready to send: in memory of its own, which may be handed on */
  searchBytes(scope: Scope, id: number, request: SearchRequest): Promise<Outcome<Bytes>> {
    return this.of(id, (held) => this.asked(() => this.searches.answer(held, scope, id, request)));
  }

  /** Does what `searchBytes` does. @returns the answer as text */
  async search(scope: Scope, id: number, request: SearchRequest): Promise<Outcome<string>> {
    const outcome = await this.searchBytes(scope, id, request);
    return outcome.is === 'answered' ? { ...outcome, value: decoder.decode(outcome.value) } : outcome;
  }

  /** Tells why a question finds nothing. Rests between its searches, so that typing never waits for it; typing on ends it. */
  explain(scope: Scope, id: number, { question, session, turn = 0 }: ExplainRequest): Promise<Outcome<Explanation>> {
    return this.of(id, async ({ table }) => {
      // Reasons count words of the whole table.
      if (scope.locked) return answered({ reasons: [], overtaken: false });
      const steps = explainSteps(table, questionIn(table.columns, scope, question));
      const stopped = (): boolean => session !== undefined && this.searches.overtaken(session, turn);
      const reasons = await inStretches(steps, stopped);
      if (!reasons) return OVERTAKEN;
      return answered({ reasons: reasons.map((reason) => wireReason(reason, table)), overtaken: false });
    });
  }

  offers(scope: Scope, id: number, request: OffersRequest): Promise<Outcome<Offers>> {
    const { question, column, of = 'values', holding = '', offset = 0 } = request;
    return this.of<Offers>(id, async ({ table }) => {
      const asked = questionIn(table.columns, scope, question);
      const [number] = columnNumbers(columnsIn(table.columns, scope.narrowable), [column]);
      const search = await this.searches.run(() => offering(table, asked, number));
      const there = await this.searches.everyRow(table, scope, id);
      if (of === 'range')
        return answered({ values: [], count: 0, range: valueRange(search, number, RANGE_BINS, there) ?? null });
      if (of === 'values') return answered({ ...valueCounts(search, number, { holding, offset }, there), range: null });
      const values = letterCounts(search, number, of);
      return answered({ values, count: values.length, range: null });
    });
  }

  next(scope: Scope, id: number, request: NextRequest): Promise<Outcome<NextMatch>> {
    const { question, from, backwards = false, stays = [] } = request;
    return this.of(id, async ({ table }) => {
      const search = await this.searches.run(() => this.searches.searchFor(table, scope, id, { question }).search);
      const list = stays.length > 0 && !scope.locked ? new Staying(search.view, stays) : search.view;
      return answered({ index: list.nextMatch(from, backwards) ?? null });
    });
  }

  /**
   * Begins to take rows out: those that a question has on show, or some of them, as they are at this moment.
   * @returns what gives them, some at a time, and is to be ended by whoever takes no more
   */
  takeOut(
    scope: Scope,
    id: number,
    request: Pick<TakeOutRequest, 'question' | 'columns' | 'rows' | 'offset' | 'limit' | 'marks'>,
  ): Promise<Outcome<TakingOut>> {
    const { question, columns, rows, offset, limit, marks = false } = request;
    return this.of(id, async (held) => {
      const { table } = held;
      if (!scope.actions.includes('take out')) throw new OutOfScope('Rows are not to be taken out here.');
      for (;;) {
        const every = await this.searches.everyRow(table, scope, id);
        const search = await this.searches.run(() => this.searches.searchFor(table, scope, id, { question }).search);
        // From here on in one go, so that all of it is of one moment.
        if (!search.current || every?.current === false) continue;
        if (search.problem) return refusedQuestion(search.problem.notice.message);
        const visible = columnsIn(table.columns, scope.visible);
        const numbers = columns
          ? columnNumbers(visible, columns)
          : visible.flatMap((column, i) => (column === table.columns[i] ? [i] : []));
        const wanted = rows ? { ids: rows } : { offset, limit };
        const isIn = (slot: number): boolean => every?.view.placeInList(slot) !== undefined;
        const snapshot = new Snapshot(search, numbers, wanted, every && isIn);
        const { matched, shown } = search;
        const keywords = keywordsOf(search).map(({ number, text, rows: hit }) => ({ number, text, rows: hit }));
        const counts = { total: every?.narrowed ?? table.rowCount, matched, shown, keywords };
        const told = { change: held.change, ...counts, columns: toldColumns(table.columns, numbers) };
        return answered(new TakingOut(snapshot, marks, told, this.others));
      }
    });
  }
}

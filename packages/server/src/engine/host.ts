/**
 * Tables and the searches on them. A search runs segment by segment and looks up between two: if the same session has
 * asked something newer, the older search stops; if the asker's patience is over, what is known goes out. The last searches
 * are kept, so that scrolling asks nothing anew, and one that is not complete goes on when asked again.
 */
import type {
  Column, ExplainRequest, Explanation, NextMatch, NextRequest, Offers, OffersRequest, SearchAnswer, SearchRequest, StoredRow,
} from '@usual-needle/contract'; // prettier-ignore
import {
  columnNumbers, explainSteps, letterCounts, questionByName, Search, Table, valueCounts, valueRange, View, warmUp,
} from '@usual-needle/engine'; // prettier-ignore
import { answerOf, wireReason } from './search.js';

/** Searches kept for scrolling. */
const KEPT = 16;
/** Sessions whose latest turn is remembered. */
const SESSIONS = 10_000;
/** Bars of a number picker's histogram. */
const RANGE_BINS = 24;
/** A search runs this long before it looks whether it was overtaken. */
const STRETCH_MS = 8;

interface Kept {
  readonly search: Search;
  /** Milliseconds worked on it. */
  spent: number;
}

const OVERTAKEN: SearchAnswer = {
  total: 0, matched: 0, narrowed: 0, shown: 0, searched: 0, asked: false, complete: false, overtaken: true, columnTallies: [],
  trace: [], strands: [], keywords: [], notices: [], problem: null, offset: 0, rows: [], milliseconds: 0,
}; // prettier-ignore

function turnOfTheLoop(): Promise<void> {
  return new Promise((done) => setImmediate(done));
}

export class EngineHost {
  private readonly tables = new Map<number, Table>();
  private readonly turns = new Map<string, number>();
  private readonly kept = new Map<string, Kept>();

  load(id: number, columns: readonly Column[]): void {
    this.tables.set(id, new Table(columns));
  }

  append(id: number, rows: readonly StoredRow[]): void {
    this.table(id).append(rows, true);
  }

  /** Ends the filling of a table, and builds its indexes. */
  index(id: number): void {
    const table = this.table(id);
    table.append([]);
    for (const _ of table.buildIndexes()) void _;
  }

  /** Gets the platform ready, so that nobody's first keystroke is a slow one; answers others meanwhile. */
  async warmUp(): Promise<void> {
    const steps = warmUp();
    while (!steps.next().done) await turnOfTheLoop();
  }

  /** Changes how columns are shown and ordered; the rows stay. */
  respecify(id: number, columns: readonly Column[]): void {
    this.tables.get(id)?.respecify(columns);
  }

  /**
   * @returns the answer as JSON, ready to send, so that it is copied between threads once; undefined without the table
   * @throws UnknownColumn
   */
  async search(id: number, request: SearchRequest): Promise<string | undefined> {
    const table = this.tables.get(id);
    return table && JSON.stringify(await this.answer(id, table, request));
  }

  private async answer(id: number, table: Table, request: SearchRequest): Promise<SearchAnswer> {
    const start = performance.now();
    const { session, turn = 0, patience = Infinity } = request;
    if (session !== undefined && !this.begin(session, turn)) return OVERTAKEN;
    const kept = this.searchFor(id, table, request);
    const { search } = kept;
    const before = search.complete;
    let looked = start;
    // One step at least, so that an impatient reader gets on too.
    while (search.step() && performance.now() - start < patience) {
      if (performance.now() - looked < STRETCH_MS) continue;
      await turnOfTheLoop();
      looked = performance.now();
      if (session !== undefined && this.overtaken(session, turn)) return OVERTAKEN;
    }
    if (!before) kept.spent += performance.now() - start;
    return answerOf(search, request, kept.spent);
  }

  /** Notes the turn of a session. @returns false if a later one was there before */
  private begin(session: string, turn: number): boolean {
    if (this.overtaken(session, turn)) return false;
    this.turns.delete(session);
    this.turns.set(session, turn);
    if (this.turns.size > SESSIONS) this.turns.delete(this.turns.keys().next().value!);
    return true;
  }

  private overtaken(session: string, turn: number): boolean {
    return (this.turns.get(session) ?? 0) > turn;
  }

  /** Why a question finds nothing. Rests between its searches, so that typing never waits for it; typing on ends it. */
  async explain(id: number, { question, session, turn = 0 }: ExplainRequest): Promise<Explanation | undefined> {
    const table = this.tables.get(id);
    if (!table) return undefined;
    const steps = explainSteps(table, questionByName(table.columns, question));
    for (;;) {
      const step = steps.next();
      if (step.done) return { reasons: step.value.map((reason) => wireReason(reason, table)) };
      await turnOfTheLoop();
      if (session !== undefined && this.overtaken(session, turn)) return { reasons: [] };
    }
  }

  offers(id: number, { question, column, of = 'values' }: OffersRequest): Offers | undefined {
    const table = this.tables.get(id);
    if (!table) return undefined;
    const asked = questionByName(table.columns, question);
    const [number] = columnNumbers(table.columns, [column]);
    if (of === 'range') return { values: [], range: valueRange(table, asked, number, RANGE_BINS) ?? null };
    const values = of === 'values' ? valueCounts(table, asked, number) : letterCounts(table, asked, number, of);
    return { values, range: null };
  }

  next(id: number, { question, from, backwards = false }: NextRequest): NextMatch | undefined {
    const table = this.tables.get(id);
    if (!table) return undefined;
    const search = this.searchFor(id, table, { question }).search.run();
    return { index: new View(search).nextMatch(from, backwards) ?? null };
  }

  private searchFor(id: number, table: Table, request: SearchRequest): Kept {
    const question = questionByName(table.columns, request.question);
    const key = JSON.stringify([id, question]);
    let kept = this.kept.get(key);
    this.kept.delete(key);
    if (!kept?.search.current) kept = { search: new Search(table, question), spent: 0 };
    this.kept.set(key, kept);
    if (this.kept.size > KEPT) this.kept.delete(this.kept.keys().next().value!);
    return kept;
  }

  private table(id: number): Table {
    const table = this.tables.get(id);
    if (!table) throw new Error(`table ${id} is not loaded`);
    return table;
  }
}

/**
 * Searches as they are asked for. One runs a stretch at a time and looks up in between: if the same session has asked
 * something newer, the older search stops; if the asker's patience is over, what is known goes out. The last searches are
 * kept, so that scrolling asks nothing anew, and one that is not complete goes on when asked again.
 */
import { LRUCache } from 'lru-cache';
import type { Scope, SearchRequest } from '@usual-needle/contract';
import { columnNumbers, finished, Search, type Table } from '@usual-needle/engine';
import { answerSteps } from './answer.js';
import { JsonWriter } from './json-writer.js';
import type { Held } from './held.js';
import { answered, OVERTAKEN, type Outcome } from './outcome.js';
import { columnsIn, everyRowIn, questionIn } from './scoped.js';
import { inStretches, STRETCH_MS, turnOfTheLoop } from './stretches.js';

/** Searches kept for scrolling. */
const KEPT = 16;
/** Sessions whose latest turn is remembered. */
const SESSIONS = 10_000;
/** A search whose table changes is begun anew so often; then it is done without looking up. */
const TRIES = 3;

/** JSON in UTF-8, in memory of its own. */
export type Bytes = Uint8Array<ArrayBuffer>;

interface Kept {
  readonly search: Search;
  /** Milliseconds worked on it. */
  spent: number;
}

// Of the platform, wherever that is: a thread, a browser's worker, a command.
declare const performance: { now(): number };

export class Searches {
  private readonly turns = new LRUCache<string, number>({ max: SESSIONS });
  private readonly writers: JsonWriter[] = [];
  private readonly kept = new LRUCache<string, Kept>({ max: KEPT });

  /** A session is over, or its asker has gone: what it asked before need not be answered any more. */
  leave(session: string): void {
    this.turns.set(session, Infinity);
  }

  /** @returns the answer, a `SearchAnswer`, as JSON in UTF-8 @throws UnknownColumn, OutOfScope */
  async answer(held: Held, scope: Scope, id: number, request: SearchRequest): Promise<Outcome<Bytes>> {
    const start = performance.now();
    const { session, turn = 0, patience = Infinity } = request;
    if (session !== undefined && !this.begins(session, turn)) return OVERTAKEN;
    const stopped = (): boolean => session !== undefined && this.overtaken(session, turn);
    const { table } = held;
    // A row that stays where it was seen would be shown though it is outside.
    const asking = scope.locked ? { ...request, stays: [] } : request;
    const names = request.columns;
    const visible = columnsIn(table.columns, scope.visible);
    const columns = names
      ? columnNumbers(visible, names)
      : visible.flatMap((column, i) => (column === table.columns[i] ? [i] : []));
    for (let tries = 0; ; tries++) {
      // First, so that nothing is waited for between the search and its answer.
      const every = await this.everyRow(table, scope, id);
      const begun = performance.now();
      const kept = this.searchFor(table, scope, id, request);
      const { search } = kept;
      const before = search.complete;
      // What changes again and again is answered in one go at last.
      const changed = (): boolean => !search.current && tries < TRIES;
      let looked = begun;
      // One step at least, so that an impatient reader gets on too.
      while (search.step(STRETCH_MS) && performance.now() - start < patience) {
        if (performance.now() - looked < STRETCH_MS || tries >= TRIES) continue;
        await turnOfTheLoop();
        looked = performance.now();
        if (stopped()) return OVERTAKEN;
        if (changed()) break;
      }
      if (!before) kept.spent += performance.now() - begun;
      const asked = {
        ...{ request: asking, columns, change: held.change, milliseconds: kept.spent },
        ...(every && { within: every.narrowed }),
      };
      const answer = await this.written(async (writer) => {
        const steps = answerSteps(search, asked, writer);
        if (tries >= TRIES) return finished(steps);
        return !changed() && (await inStretches(steps, () => stopped() || changed())) === true;
      });
      if (answer) return answered(answer, search.complete);
      if (stopped()) return OVERTAKEN;
    }
  }

  /** Writes the answer of a search as a screen asks for it, for nobody: what is written often is written fast. */
  warmUp(search: Search): void {
    const columns = search.table.columns.map((_, column) => column);
    const request: SearchRequest = { question: { threaded: [] }, limit: 60 };
    const writer = new JsonWriter();
    finished(answerSteps(search, { request, columns, change: 0, milliseconds: 0 }, writer));
    writer.taken();
  }

  /** Gives what a writer was given to write; undefined if `write` gave up. Writers are used again, with the room that they made. */
  private async written(write: (writer: JsonWriter) => Promise<boolean>): Promise<Bytes | undefined> {
    const writer = this.writers.pop() ?? new JsonWriter();
    try {
      return (await write(writer)) ? writer.taken() : undefined;
    } finally {
      writer.clear();
      this.writers.push(writer);
    }
  }

  /** Notes the turn of a session. @returns false if a later one was there before */
  private begins(session: string, turn: number): boolean {
    if (this.overtaken(session, turn)) return false;
    this.turns.set(session, turn);
    return true;
  }

  /** Tells whether a session has asked something later. */
  overtaken(session: string, turn: number): boolean {
    return (this.turns.get(session) ?? 0) > turn;
  }

  /** Runs a search to its end; anew where the table changes meanwhile, and in one go where that does not end. */
  async run(make: () => Search): Promise<Search> {
    for (let tries = 0; tries < TRIES; tries++) {
      const search = make();
      while (search.current && search.step(STRETCH_MS)) await turnOfTheLoop();
      if (search.current) return search;
    }
    return make().run();
  }

  /** Gives the search that is kept for a question, or else a new one. */
  searchFor(table: Table, scope: Scope, id: number, request: SearchRequest): Kept {
    const question = questionIn(table.columns, scope, request.question);
    const { brief = false, patience } = request;
    const made = (): Kept => ({ search: new Search(table, question, !brief), spent: 0 });
    // One that nobody scrolls, or goes on with, takes no place from those that are.
    if (brief && patience === undefined) return made();
    return this.keptOr(table, JSON.stringify([id, brief, question]), made);
  }

  /** The search that finds all rows that exist within a scope; undefined where every row does. */
  async everyRow(table: Table, scope: Scope, id: number): Promise<Search | undefined> {
    const question = everyRowIn(table.columns, scope);
    if (!question) return undefined;
    const made = (): Kept => ({ search: new Search(table, question, false), spent: 0 });
    return this.run(() => this.keptOr(table, JSON.stringify([id, 'every', question]), made).search);
  }

  /** The search that is kept under a key, if it is of the table as it is now; else a new one. */
  private keptOr(table: Table, key: string, made: () => Kept): Kept {
    let kept = this.kept.get(key);
    if (!kept?.search.current || kept.search.table !== table) kept = made();
    this.kept.set(key, kept);
    return kept;
  }
}

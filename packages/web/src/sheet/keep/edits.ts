import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { Clash, EditDone, EditRequest } from '@usual-needle/contract';
import { firstValueFrom, Subject } from 'rxjs';
import { errorWords, mayPass, statusOf } from '../../common/error-words';
import { Api } from '../../services/api';
import { newId } from '../../services/ids';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { TakingBack } from '../../services/taking-back';
import { columnIdOf, columnNameOf } from '../../common/column-ids';
import { Live } from '../live/live';
import { SheetStore } from '../state/sheet-store';
import { besideTheirs, mineOf } from './clash-ways';
import { KeptEdits, type WaitingEdit } from './kept-edits';
import { overOf } from './over-cells';

/** The time between two tries while the server is away, in milliseconds. */
const AGAIN_MS = 3_000;
/** Edits of one's own that can be undone one after the other. */
const UNDOABLE = 100;
/** Letters of an edit's key. */
const LONGEST_KEY = 64;

/** An edit that was refused, since others were there first. */
export interface Clashing extends WaitingEdit {
  readonly clashes: readonly Clash[];
  /** Why it was refused, where no others were there first: its column has gone, say. */
  readonly why?: string;
  /** How many there are: not all of them are told. */
  readonly count: number;
}

/** An edit of one's own that is in the log. */
export interface Mine {
  readonly number: number;
  readonly said: string;
  /** When it was done here, for telling which of two things was done last. */
  readonly at: number;
  readonly key: string;
}

/**
 * Edits on their way: written one after the other, kept in the browser until the server has them, shown meanwhile as if it had;
 * and what of one's own can be undone.
 */
@Injectable()
export class Edits {
  private readonly api = inject(Api);
  private readonly kept = inject(KeptEdits);
  private readonly person = inject(Person);
  private readonly remarks = inject(Remarks);
  private readonly takingBack = inject(TakingBack);
  private readonly live = inject(Live);
  private readonly store = inject(SheetStore);
  private table: number | undefined;
  private sending = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** Keys of edits that have gone out at least once, and of those that are to be undone as soon as they are there. */
  private readonly tried = new Set<string>();
  private readonly unwanted = new Set<string>();
  /** Rows that were written from here, and the number of the last such change: that one its keeper knows, whatever is on show. */
  private readonly wrote = new Map<number, number>();
  /** Keys of edits made here, to know one's own among the news. */
  private readonly own = new Set<string>();

  readonly waiting = signal<readonly WaitingEdit[]>([]);
  readonly clashing = signal<readonly Clashing[]>([]);
  /** True while the server cannot be reached. */
  readonly away = signal(false);
  readonly done = signal<readonly Mine[]>([]);
  readonly undone = signal<readonly Mine[]>([]);
  /** Written, but not yet in the answer on show. */
  private readonly settling = signal<readonly (WaitingEdit & { readonly change: number })[]>([]);
  /** An edit that is in the log now. */
  readonly written = new Subject<{ readonly request: EditRequest; readonly done: EditDone }>();

  /** The texts that cells are to have, by row and column, until the rows on show say so themselves. */
  readonly over = computed(() =>
    overOf([...this.settling(), ...this.waiting()], this.clashing(), (name) => this.calledNow(name)),
  );
  /** Rows that are to be removed. */
  readonly leaving = computed(
    () =>
      new Set(
        [...this.settling(), ...this.waiting()].flatMap(({ request }) => (request.removed ?? []).map(({ id }) => id)),
      ),
  );

  constructor() {
    this.live.back.pipe(takeUntilDestroyed()).subscribe(() => void this.send());
    inject(DestroyRef).onDestroy(() => clearTimeout(this.timer));
  }

  /** A table is on show: what was left waiting on it goes on. */
  open(table: number): void {
    if (table === this.table) return;
    this.table = table;
    this.wrote.clear();
    this.clashing.set([]);
    this.settling.set([]);
    this.done.set([]);
    this.undone.set([]);
    const kept = this.kept.read(table);
    for (const { request, unwanted } of kept) if (unwanted) this.unwanted.add(request.key);
    this.waiting.set(kept);
    void this.send();
  }

  /** True if the news are of what was done here. */
  isOwn(key: string | null): boolean {
    return key !== null && this.own.has(key);
  }

  /** Writes an edit; it is on show at once, and goes out as soon as it can. @returns its key */
  add(edit: Omit<EditRequest, 'key' | 'who'>, said: string): string {
    const request: EditRequest = { ...edit, key: newId(), ...this.person.asWho() };
    this.put(request, said);
    return request.key;
  }

  private put(request: EditRequest, said: string): void {
    if (this.table === undefined) return;
    const waiting: WaitingEdit = { request, said, at: performance.now() };
    this.own.add(request.key);
    if (!this.kept.write(this.table, waiting))
      this.remarks.say('This browser keeps no more: do not close this page before the edit is written.');
    this.waiting.update((all) => [...all, waiting]);
    void this.send();
  }

  private async send(): Promise<void> {
    if (this.sending) return;
    this.sending = true;
    const { table } = this;
    clearTimeout(this.timer);
    try {
      for (let next = this.waiting().at(0); next; next = this.waiting().at(0)) if (!(await this.one(next))) break;
    } finally {
      this.sending = false;
    }
    // Another table was opened meanwhile: what waits there goes on.
    if (this.table !== table) void this.send();
  }

  /** @returns false if it has to wait */
  private async one(waiting: WaitingEdit): Promise<boolean> {
    const { table } = this;
    if (table === undefined) return false;
    const { request, said, at } = waiting;
    this.own.add(request.key);
    this.tried.add(request.key);
    try {
      const done = await firstValueFrom(this.api.edit(table, this.asSeen(request)));
      if (table !== this.table) return false;
      this.away.set(false);
      for (const id of [...(request.changed ?? []).map((row) => row.id), ...done.added])
        this.wrote.set(id, done.change);
      if (this.unwanted.has(request.key)) return await this.takeBack(table, waiting, done.change);
      this.settling.update((all) => [...all, { ...waiting, change: done.change }]);
      this.forget(waiting);
      this.done.update((all) => [...all.slice(1 - UNDOABLE), { number: done.change, said, at, key: request.key }]);
      this.undone.set([]);
      this.written.next({ request, done });
      return true;
    } catch (error) {
      if (table !== this.table) return false;
      return this.failed(waiting, error);
    }
  }

  /** Undoes what was not wanted any more when it arrived. It is kept until that is done, so that a reload does it, too. */
  private async takeBack(table: number, waiting: WaitingEdit, change: number): Promise<boolean> {
    const { key } = waiting.request;
    const undo = `undo-${key}`.slice(0, LONGEST_KEY);
    this.own.add(undo);
    try {
      const undone = this.api.undoChange(table, change, { key: undo, ...this.person.asWho() });
      const { number } = await firstValueFrom(undone);
      this.undone.update((all) => [...all, { number, said: waiting.said, at: performance.now(), key }]);
    } catch (error) {
      if (statusOf(error) !== 409) throw error;
      this.remarks.say(`${waiting.said} was written, and cannot be undone any more. ${errorWords(error)}`);
    }
    this.unwanted.delete(key);
    this.forget(waiting);
    return true;
  }

  /** The name that a column has now, by which the rows on show know it. */
  private calledNow(name: string): string {
    const table = this.store.table();
    return columnNameOf(table, columnIdOf(table, name)) ?? name;
  }

  /** Rows to be removed are known as they were last written from here, though the rows on show may be from before. */
  private asSeen(request: EditRequest): EditRequest {
    if (!request.removed) return request;
    const removed = request.removed.map(({ id, seen }) => ({ id, seen: Math.max(seen, this.wrote.get(id) ?? 0) }));
    return { ...request, removed };
  }

  private failed(waiting: WaitingEdit, error: unknown): boolean {
    const status = statusOf(error);
    if (mayPass(error) || status === 429) {
      this.away.set(true);
      this.timer = setTimeout(() => void this.send(), AGAIN_MS);
      return false;
    }
    this.away.set(false);
    const { clashes, clashing } = (error as { error?: { clashes?: readonly Clash[]; clashing?: number } }).error ?? {};
    if (status === 409 && clashes) {
      this.waiting.update((all) => all.filter((one) => one !== waiting));
      this.clashing.update((all) => [...all, { ...waiting, clashes, count: clashing ?? clashes.length }]);
      return true;
    }
    // What was typed stays to be seen, and copied, until its keeper lets it go.
    const isTyped = (waiting.request.changed ?? []).length + (waiting.request.added ?? []).length > 0;
    if (isTyped && !this.unwanted.delete(waiting.request.key)) {
      this.waiting.update((all) => all.filter((one) => one !== waiting));
      this.clashing.update((all) => [...all, { ...waiting, clashes: [], count: 0, why: errorWords(error) }]);
      return true;
    }
    this.forget(waiting);
    this.remarks.say(`${waiting.said} was not written. ${errorWords(error)}`, {
      name: 'Try it again',
      does: () => this.put({ ...waiting.request, key: newId() }, waiting.said),
    });
    return true;
  }

  private forget(waiting: WaitingEdit): void {
    if (this.table !== undefined) this.kept.forget(this.table, waiting.request.key);
    this.waiting.update((all) => all.filter((one) => one !== waiting));
  }

  /** The rows on show know of a change: what it wrote need not be shown over them any more. */
  settled(change: number): void {
    if (this.settling().some((one) => one.change <= change))
      this.settling.update((all) => all.filter((one) => one.change > change));
  }

  /** Asks once more for what was refused. */
  tryAgain(clashing: Clashing): void {
    this.letGo(clashing);
    this.put({ ...clashing.request, key: newId() }, clashing.said);
  }

  /** Writes the keeper's own of a clash all the same, over what they have now been shown. */
  writeMine(clashing: Clashing): void {
    this.letGo(clashing);
    this.put({ ...mineOf(clashing, this.live.lastKnown), key: newId() }, clashing.said);
  }

  /** Lets stand what the others wrote of a clash, and writes what does not clash. */
  keepTheirs(clashing: Clashing): void {
    this.letGo(clashing);
    const left = besideTheirs(clashing);
    if (left) this.put({ ...left, key: newId() }, clashing.said);
  }

  /** Lets go of what was refused: it is neither shown nor kept any more. */
  letGo(clashing: Clashing): void {
    if (this.table !== undefined) this.kept.forget(this.table, clashing.request.key);
    this.clashing.update((all) => all.filter((one) => one !== clashing));
  }

  /** Undoes what was done here last, on its way or not. */
  undo(): Promise<void> {
    const key = this.waiting().at(-1)?.request.key ?? this.done().at(-1)?.key;
    return key === undefined ? Promise.resolve() : this.undoEdit(key);
  }

  /** Undoes an edit by its key: one that has not gone out yet is dropped, one that is on its way is undone once it is there. */
  async undoEdit(key: string): Promise<void> {
    const waiting = this.waiting().find(({ request }) => request.key === key);
    if (!waiting)
      return this.back(
        this.done().find((mine) => mine.key === key),
        'undo',
      );
    // Of one that has gone out nobody knows whether it has arrived: it is done once, and then undone.
    if (!this.tried.has(key)) return this.forget(waiting);
    this.unwanted.add(key);
    if (this.table !== undefined) this.kept.write(this.table, { ...waiting, unwanted: true });
  }

  /** Undoes any change of the log, as one's own doing; an edit made here is not offered to be undone once more. @param then is called once it is done */
  async undoChange(number: number, then: () => void): Promise<void> {
    const mine = this.done().find((one) => one.number === number);
    if (mine) {
      await this.back(mine, 'undo');
      if (!this.done().includes(mine)) then();
      return;
    }
    const { table } = this;
    if (table === undefined) return;
    const key = newId();
    this.own.add(key);
    await this.takingBack.undo(table, number, then, { key });
  }

  redo(): Promise<void> {
    return this.back(this.undone().at(-1), 'redo');
  }

  private async back(mine: Mine | undefined, what: 'undo' | 'redo'): Promise<void> {
    const { table } = this;
    if (!mine || table === undefined) return;
    const [from, to] = what === 'undo' ? [this.done, this.undone] : [this.undone, this.done];
    const key = newId();
    const at = performance.now();
    this.own.add(key);
    const leave = (): void => from.update((all) => all.filter((one) => one !== mine));
    await this.takingBack.undo(
      table,
      mine.number,
      ({ number }) => {
        leave();
        to.update((all) => [...all, { ...mine, number, at }]);
      },
      { key },
      // What cannot be undone does not stand in the way of what was done before it.
      leave,
    );
  }
}

import { Location } from '@angular/common';
import { effect, Injectable, inject, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Router } from '@angular/router';
import { onTable, type Box, type BoxNews, type StoredBox } from '@usual-needle/contract';
import { finalize, type Observable } from 'rxjs';
import { firstText, strandsOf, withFirstText } from '../../common/question';
import { checkedBox } from '../../common/box-check';
import { errorWords, statusOf } from '../../common/error-words';
import { Api } from '../../services/api';
import { Drafts } from '../../services/drafts';
import { Person } from '../../services/person';
import { Remarks } from '../../services/remarks';
import { Live } from '../live/live';
import { differs } from './box-change';
import { SheetStore } from './sheet-store';

/** Saves, copies and deletes boxes on the server. Nothing that is typed or changed meanwhile is lost by it. */
@Injectable()
export class BoxSaving {
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly location = inject(Location);
  private readonly drafts = inject(Drafts);
  private readonly remarks = inject(Remarks);
  private readonly store = inject(SheetStore);
  private readonly person = inject(Person);

  /** The box as the server has it; undefined for one that was never saved. */
  readonly stored = signal<StoredBox | undefined>(undefined);
  readonly busy = signal(false);
  /** The version that was saved elsewhere since, and is not taken over. */
  readonly newer = signal<BoxNews | undefined>(undefined);

  constructor() {
    inject(Live)
      .boxes.pipe(takeUntilDestroyed())
      .subscribe((news) => {
        const stored = this.stored();
        // What was saved from here is told here, too.
        if (news.box === stored?.id && news.version > stored.version && !this.busy()) this.newer.set(news);
      });
    effect(() => {
      const stored = this.stored();
      const newer = untracked(this.newer);
      if (newer && newer.version < (stored?.version ?? 0)) this.newer.set(undefined);
    });
  }

  /** Saves the changes, or a new box. @returns false if it has no name yet */
  save(): boolean {
    const box = this.definition();
    if (!box.name?.trim()) return false;
    if (this.busy()) return true;
    const stored = this.stored();
    if (stored)
      this.run(this.api.changeBox(stored, box, this.person.asWho()), (saved) =>
        this.saved(saved, `“${saved.name}” is saved.`),
      );
    else this.saveNew(box, (saved) => `“${saved.name}” is saved on the shelf.`);
    return true;
  }

  /** Saves the box as it is now as another one, and goes on with that. */
  saveAs(name: string): void {
    if (this.busy()) return;
    this.saveNew({ ...this.definition(), name }, (saved) => `“${saved.name}” is saved as a box of its own.`, name);
  }

  /** The sheet stays as it is, with all that is typed; only its address is another. */
  private saveNew(box: Box, says: (saved: StoredBox) => string, name?: string): void {
    const table = this.store.table();
    if (!table) return;
    const before = this.stored() ? `box ${this.stored()!.id}` : `table ${table.id}`;
    this.run(this.api.saveNewBox(table.id, box), (saved) => {
      this.drafts.forget(before);
      if (name !== undefined) this.store.box.update((now) => ({ ...now, name }));
      this.saved(saved, says(saved));
      const query = this.location.path().split('?').slice(1).join('?');
      this.location.replaceState(`/box/${saved.id}`, query);
    });
  }

  delete(): void {
    const stored = this.stored();
    if (!stored) return;
    this.run(this.api.deleteBox(stored), () => {
      void this.router.navigate(['/']);
      const back = (): void =>
        this.run(this.api.restoreBox(stored.id), () => void this.router.navigate(['/box', stored.id]));
      this.remarks.say(`“${stored.name}” is deleted. The shelf keeps it for 30 days.`, {
        name: 'Bring it back',
        does: back,
      });
    });
  }

  /** Goes back to the box as it is saved; what is typed stays. */
  discard(): void {
    const box = this.store.box();
    this.store.update({ ...cleared(box), ...withFirstText(this.store.saved(), firstText(box)) });
  }

  /** The box as a file: what is saved, and what the command takes. */
  file(): { readonly name: string; readonly text: string } {
    const box = this.definition();
    const name = (box.name ?? 'box')
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-|-$/g, '')
      .toLowerCase();
    return { name: `${name || 'box'}.box.json`, text: `${JSON.stringify(box, null, 2)}\n` };
  }

  /** Takes the definition from a box file; what is typed stays, unless the file has a text. @returns why not, if so */
  take(text: string): string | undefined {
    const table = this.store.table();
    if (!table) return 'The table is not open yet.';
    let file: unknown;
    try {
      file = JSON.parse(text);
    } catch {
      return 'This file is not a box: it is not JSON.';
    }
    const { format, version, ...parts } = (file ?? {}) as Record<string, unknown>;
    if (format !== 'usual-needle box') return 'This file is not a box.';
    if (version !== 1) return 'This box was written by a newer Usual Needle.';
    const checked = checkedBox(parts);
    const now = this.store.box();
    const whole: Box = { format: 'usual-needle box', version: 1, threaded: [...this.store.threaded()], ...checked.box };
    const { box, gone } = onTable(whole, table);
    const typed = firstText(box) || firstText(now);
    this.store.update({ ...cleared(now), ...withFirstText({ ...box, table: table.name }, typed) });
    const left = [
      ...(gone.length > 0 ? [`this table has no ${gone.join(', ')}`] : []),
      ...(checked.leftOut.length > 0 ? [`it could not be read: ${checked.leftOut.join(', ')}`] : []),
    ];
    this.remarks.say(
      left.length === 0 ? 'The box is taken from the file.' : `Taken from the file, but ${left.join('; ')}.`,
      {
        name: 'Undo',
        does: () => this.store.undo(),
      },
    );
    return undefined;
  }

  /** Gives what is saved of the box as it is now: all of it but a flip and what is typed into the first strand. */
  private definition(): Box {
    const box = withFirstText(this.store.box(), firstText(this.store.saved()));
    return { ...box, flip: undefined, table: this.store.table()?.name };
  }

  /** Takes what was sent as saved; what was changed since is not. */
  private saved(saved: StoredBox, says: string): void {
    this.stored.set(saved);
    this.store.saved.set({ ...saved.box, threaded: saved.box.threaded ?? [...this.store.threaded()] });
    const more = differs(this.store.box(), this.store.saved()) ? ' What you changed meanwhile is not saved yet.' : '';
    this.remarks.say(says + more);
  }

  private run<T>(request: Observable<T>, then: (result: T) => void): void {
    this.busy.set(true);
    request.pipe(finalize(() => this.busy.set(false))).subscribe({
      next: then,
      error: (error: unknown) => {
        if (statusOf(error) === 412) this.clashed();
        else if (statusOf(error) === 404) this.gone();
        else this.remarks.say(`Not saved. ${errorWords(error)}`);
      },
    });
  }

  /** Somebody saved in between: theirs is what is saved by now, and ours is a change of that. */
  private clashed(): void {
    const stored = this.stored();
    if (!stored) return;
    this.api.box(stored.id).subscribe({
      next: (theirs) => {
        const who = this.newer()?.who ?? null;
        this.become(theirs);
        this.newer.set({ box: theirs.id, version: theirs.version, who, deleted: false });
        this.remarks.say(
          'Somebody changed this box in the meantime. Nothing was overwritten: yours is still here, unsaved. Save it over theirs, or take theirs over.',
          { name: 'Take it over', does: () => this.takeOver() },
        );
      },
      error: (error: unknown) => (statusOf(error) === 404 ? this.gone() : this.remarks.say(errorWords(error))),
    });
  }

  /** The box as somebody saved it takes the place of what is here; what is typed stays, and the change can be undone. */
  takeOver(): void {
    this.theirs((theirs) => {
      this.become(theirs);
      this.discard();
    });
  }

  /** Saves what is here in place of what somebody saved. */
  saveOver(): void {
    this.theirs((theirs) => {
      this.become(theirs);
      this.save();
    });
  }

  private become(theirs: StoredBox): void {
    this.stored.set(theirs);
    this.newer.set(undefined);
    const table = this.store.table();
    const own: Box = { ...theirs.box, threaded: theirs.box.threaded ?? [] };
    this.store.saved.set(table ? onTable({ ...own, strands: [...strandsOf(own)] }, table).box : own);
  }

  private theirs(then: (theirs: StoredBox) => void): void {
    const stored = this.stored();
    if (!stored) return;
    this.api.box(stored.id).subscribe({
      next: then,
      error: (error: unknown) => (statusOf(error) === 404 ? this.gone() : this.remarks.say(errorWords(error))),
    });
  }

  /** Somebody deleted it: what is here can be kept as a box of its own. */
  private gone(): void {
    this.stored.set(undefined);
    this.remarks.say('Somebody deleted this box in the meantime. Yours is still here: Save keeps it as a new box.');
  }
}

/** Every setting of a box as not set, for laying another one over it. */
function cleared(box: Box): Partial<Box> {
  return Object.fromEntries(Object.keys(box).map((key) => [key, undefined]));
}

import { Location } from '@angular/common';
import { DestroyRef, effect, Injectable, inject, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { NavigationStart, Router } from '@angular/router';
import { onTable, type Box, type StoredBox, type TableSummary } from '@usual-needle/contract';
import { debounce, filter, of, skip, timer } from 'rxjs';
import { Drafts } from '../../services/drafts';
import { Remarks } from '../../services/remarks';
import { boxAt, readAddress, writeAddress } from './address';
import { differs } from './box-change';
import { BoxSaving } from './box-saving';
import { type BoxChange, SheetStore } from './sheet-store';
import { forgetTypedLast, keepTypedLast, typedLast } from './typed-last';

/** A text typed on within this time is one entry of the browser's history, in milliseconds. */
const SAME_TEXT_MS = 1_500;
/** The pause in typing, in milliseconds, after which the text goes into the address. */
const PAUSE_MS = 300;

/**
 * Where the state of a sheet is kept besides the server: in the address, which carries all of it and can be walked, and in the
 * browser, as a draft of what is not saved yet.
 */
@Injectable()
export class History {
  private readonly location = inject(Location);
  private readonly drafts = inject(Drafts);
  private readonly remarks = inject(Remarks);
  private readonly store = inject(SheetStore);
  private readonly boxSaving = inject(BoxSaving);
  /** When the last entry of the browser's history was made, if it is still being typed. */
  private typingSince = 0;
  private walking = false;
  /** Typed, and not in the address yet. */
  private pending = false;

  constructor() {
    const destroyed = inject(DestroyRef);
    // What was just saved need not be in the address any more.
    effect(() => {
      this.store.saved();
      untracked(() => this.rewrite());
    });
    effect(() => {
      this.store.box();
      untracked(() => this.keepDraft());
    });
    this.store.changes.pipe(takeUntilDestroyed()).subscribe(() => (this.pending = true));
    // What is chosen goes into the address at once; what is typed, when typing pauses.
    this.store.changes
      .pipe(
        skip(1),
        debounce((change) => (change === 'typed' ? timer(PAUSE_MS) : of(0))),
        takeUntilDestroyed(),
      )
      .subscribe((change) => this.write(change));
    const walked = this.location.subscribe(() => this.walk());
    destroyed.onDestroy(() => walked.unsubscribe());
    const leaving = (): void => this.flush();
    window.addEventListener('pagehide', leaving);
    destroyed.onDestroy(() => window.removeEventListener('pagehide', leaving));
    // Another page of ours comes: what was typed a moment ago is put into this one's address first.
    inject(Router)
      .events.pipe(
        filter((event) => event instanceof NavigationStart && event.navigationTrigger === 'imperative'),
        takeUntilDestroyed(),
      )
      .subscribe(() => this.flush());
  }

  /**
   * The box to open: as the address has it; or, if that says nothing, as it was left unsaved; else as it is saved.
   * @param base the box as it is saved, on this table
   */
  opened(base: Box, table: TableSummary, stored: StoredBox | undefined): Box {
    const typed = typedLast(this.location.path());
    if (typed !== undefined) this.location.replaceState(typed);
    const address = readAddress(this.location.path());
    const said = [...address.leftOut];
    if (address.text === undefined && Object.keys(address.changes).length === 0) {
      const draft = this.drafts.read(draftName(table, stored));
      const { box } = draft ? onTable(draft.box, table) : { box: base };
      if (said.length > 0) this.sayLeftOut(said);
      else if (draft && differs(box, base)) {
        const newer = stored && draft.version !== null && stored.version > draft.version;
        this.remarks.say(
          newer
            ? 'Your unsaved changes are here again. The box was saved by somebody since.'
            : 'Your unsaved changes are here again.',
          { name: 'Throw them away', does: () => this.boxSaving.discard() },
        );
      }
      return box;
    }
    const { box, gone } = onTable(boxAt(base, address), table);
    if (gone.length > 0) said.push(`columns that are not there: ${gone.join(', ')}`);
    if (said.length > 0) this.sayLeftOut(said);
    return box;
  }

  private sayLeftOut(what: readonly string[]): void {
    this.remarks.say(`Some of this address could not be read, and was left out: ${what.join('; ')}.`);
  }

  private keepDraft(): void {
    const table = this.store.table();
    if (!table || this.store.readersView()) return;
    const name = draftName(table, this.boxSaving.stored());
    if (this.store.unsaved())
      this.drafts.write(name, { box: this.store.box(), version: this.boxSaving.stored()?.version ?? null });
    else this.drafts.forget(name);
  }

  private flush(): void {
    if (this.pending) this.write('typed');
  }

  /** A choice is an entry of its own in the browser's history; so is each text, once it has been left for a moment. */
  private write(change: BoxChange): void {
    this.pending = false;
    if (!this.store.table() || this.walking) return;
    const before = this.location.path();
    const path = before.split('?')[0];
    const query = writeAddress(this.store.box(), this.store.saved());
    if (this.location.isCurrentPathEqualTo(path, query)) return;
    const now = Date.now();
    const goesOn = change === 'typed' && now - this.typingSince < SAME_TEXT_MS;
    this.typingSince = change === 'typed' ? now : 0;
    if (goesOn) this.location.replaceState(path, query);
    else this.location.go(path, query);
    keepTypedLast(before, this.location.path());
  }

  private rewrite(): void {
    if (!this.store.table()) return;
    forgetTypedLast();
    const path = this.location.path().split('?')[0];
    this.location.replaceState(path, writeAddress(this.store.box(), this.store.saved()));
    this.keepDraft();
  }

  /** Back and Forward: the box as the address has it, which can be undone like any change. */
  private walk(): void {
    const table = this.store.table();
    if (!table) return;
    forgetTypedLast();
    this.walking = true;
    this.typingSince = 0;
    const { box } = onTable(boxAt(this.store.saved(), readAddress(this.location.path())), table);
    this.store.goTo(box);
    this.walking = false;
    this.pending = false;
  }
}

function draftName(table: TableSummary, stored: StoredBox | undefined): string {
  if (table.now !== undefined) return `table ${table.now} then ${table.change}`;
  return stored ? `box ${stored.id}` : `table ${table.id}`;
}

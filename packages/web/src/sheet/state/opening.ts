import { DestroyRef, Injectable, inject, signal } from '@angular/core';
import { onTable, type Action, type Box, type StoredBox, type TableSummary } from '@usual-needle/contract';
import { firstValueFrom, timer } from 'rxjs';
import { newBox, strandsOf } from '../../common/question';
import { errorWords, mayPass, statusOf } from '../../common/error-words';
import { Api } from '../../services/api';
import { patiently } from '../../services/latest';
import { OpenedLately } from '../../services/opened-lately';
import { TAKEN_AWAY } from '../../take-away/taken-away';
import { History } from './history';
import { describeToAddressBar } from './address-bar';
import { BoxSaving } from './box-saving';
import { SheetStore } from './sheet-store';

/** The time between two tries at a server that is away, or still starting, in milliseconds. */
const AGAIN_MS = 2_000;

/** A table that was opened, with its box, if there is one. */
interface Opened {
  readonly table: TableSummary;
  readonly stored: StoredBox | undefined;
  /** The actions that are open to readers, where it was opened by one. */
  readonly may?: readonly Action[];
  /** Names of the columns that they may edit. */
  readonly editable?: readonly string[];
}

/** Opens the box that an address names, on its table. */
@Injectable()
export class Opening {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly boxSaving = inject(BoxSaving);
  private readonly history = inject(History);
  private readonly lately = inject(OpenedLately);
  private readonly takenAway = inject(TAKEN_AWAY);
  private turn = 0;

  /** Why it could not be opened. */
  readonly failed = signal<string | undefined>(undefined);

  constructor() {
    inject(DestroyRef).onDestroy(() => {
      this.turn++;
      this.api.slug = undefined;
      describeToAddressBar(undefined, '');
    });
  }

  /**
   * @param then number of the change after which the table is to be looked at
   * @returns false if it could not be opened, or another one is to be opened by now
   */
  async open(
    boxId: string | undefined,
    tableId: string | undefined,
    readersView: boolean,
    then?: string,
    slug?: string,
  ): Promise<boolean> {
    const turn = ++this.turn;
    this.failed.set(undefined);
    this.api.slug = slug;
    for (;;) {
      const found = await this.fetch(boxId, tableId, then, slug).catch((error: unknown) => ({ error }));
      if (turn !== this.turn) return false;
      if (!('error' in found)) {
        this.failed.set(undefined);
        this.store.readerMay.set(found.may);
        this.store.readerEdits.set(found.editable ?? []);
        this.show(found.table, found.stored, readersView);
        if (!this.takenAway) describeToAddressBar(slug, found.stored?.name ?? found.table.name);
        if (then === undefined && slug === undefined)
          this.lately.note(found.stored ? { of: 'box', id: found.stored.id } : { of: 'table', id: found.table.id });
        return true;
      }
      // What is no number is no table's, box's or change's.
      const isGone = [400, 404].includes(statusOf(found.error));
      this.failed.set(isGone ? gone(boxId ?? slug, then) : errorWords(found.error));
      // It is tried on, quietly.
      if (!mayPass(found.error)) return false;
      await firstValueFrom(timer(AGAIN_MS));
      if (turn !== this.turn) return false;
    }
  }

  private async fetch(
    boxId: string | undefined,
    tableId: string | undefined,
    then: string | undefined,
    slug: string | undefined,
  ): Promise<Opened> {
    if (slug !== undefined) {
      const { table, stored, may, editable } = await firstValueFrom(this.api.opened(slug).pipe(patiently()));
      return { table, stored, may, editable };
    }
    const stored =
      boxId === undefined ? undefined : await firstValueFrom(this.api.box(Number(boxId), true).pipe(patiently()));
    const id = stored?.tableId ?? Number(tableId);
    const asked = then === undefined ? this.api.table(id) : this.api.earlierTable(id, Number(then));
    return { table: await firstValueFrom(asked.pipe(patiently())), stored };
  }

  private show(table: TableSummary, stored: StoredBox | undefined, readersView: boolean): void {
    const own: Box = { ...newBox(table.columns), ...stored?.box };
    const { box: saved, gone } = onTable({ ...own, strands: [...strandsOf(own)] }, table);
    this.boxSaving.stored.set(stored);
    this.store.readersView.set(readersView);
    this.store.open(table, saved, this.history.opened(saved, table, stored), gone);
  }
}

function gone(boxId: string | undefined, then: string | undefined): string {
  if (then !== undefined) return 'There is no such change of this table, or the table is no longer there.';
  return `This ${boxId === undefined ? 'table' : 'box'} is no longer there.`;
}

import { HttpErrorResponse } from '@angular/common/http';
import { Injectable, inject, signal } from '@angular/core';
import { Router } from '@angular/router';
import type { Box, StoredBox } from '@usual-needle/contract';
import { finalize, type Observable } from 'rxjs';
import { Api } from '../services/api';
import { Remarks } from '../services/remarks';
import { messageOf } from './answers';
import { firstText, withFirstText } from './box-change';
import { SheetStore } from './sheet-store';

/** Keeping a box on the server: saving, copying, deleting. Everything but a clash can be taken back. */
@Injectable()
export class Keeping {
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly remarks = inject(Remarks);
  private readonly store = inject(SheetStore);

  /** The box as the server has it; undefined for one that was never kept. */
  readonly stored = signal<StoredBox | undefined>(undefined);
  readonly busy = signal(false);

  /** Keeps the changes, or a new box. @returns false if it has no name yet */
  save(): boolean {
    const box = this.definition();
    if (!box.name) return false;
    const stored = this.stored();
    if (stored) this.run(this.api.changeBox(stored, box), (kept) => this.kept(kept, `“${kept.name}” is saved.`));
    else this.keepNew(box, (kept) => `“${kept.name}” is kept on the shelf.`);
    return true;
  }

  /** Keeps the box as it is now as another one, and goes on with that. */
  saveAs(name: string): void {
    this.keepNew({ ...this.definition(), name }, (kept) => `“${kept.name}” is kept as a box of its own.`);
  }

  private keepNew(box: Box, says: (kept: StoredBox) => string): void {
    const table = this.store.table();
    if (!table) return;
    this.run(this.api.keepBox(table.id, box), (kept) => {
      this.remarks.say(says(kept));
      this.store.kept.set(this.store.box());
      void this.router.navigate(['/box', kept.id]);
    });
  }

  delete(): void {
    const stored = this.stored();
    if (!stored) return;
    this.run(this.api.deleteBox(stored), () => {
      this.store.kept.set(this.store.box());
      void this.router.navigate(['/']);
      const back = (): void =>
        this.run(this.api.restoreBox(stored.id), () => void this.router.navigate(['/box', stored.id]));
      this.remarks.say(`“${stored.name}” is deleted.`, { name: 'Bring it back', does: back });
    });
  }

  /** Goes back to the box as it is kept. */
  discard(): void {
    const box = this.store.box();
    this.store.update({ ...cleared(box), ...withFirstText(this.store.kept(), firstText(box)) });
  }

  /** The box as a file: what is kept, and what the command takes. */
  file(): { readonly name: string; readonly text: string } {
    const box = this.definition();
    const name = (box.name ?? 'box')
      .replace(/[^\p{L}\p{N}]+/gu, '-')
      .replace(/^-|-$/g, '')
      .toLowerCase();
    return { name: `${name || 'box'}.box.json`, text: `${JSON.stringify(box, null, 2)}\n` };
  }

  /** Takes the definition from a box file. @returns why it cannot be taken, if so */
  take(text: string): string | undefined {
    let box: Box;
    try {
      box = JSON.parse(text) as Box;
    } catch {
      return 'This file is not a box: it is not JSON.';
    }
    if (box?.format !== 'usual-needle box') return 'This file is not a box.';
    if (box.version !== 1) return 'This box was written by a newer Usual Needle.';
    const known = new Set(this.store.table()?.columns.map(({ name }) => name));
    const gone = [...new Set([...(box.threaded ?? []), ...(box.columns ?? []).map(({ name }) => name)])].filter((name) => !known.has(name)); // prettier-ignore
    const threaded = (box.threaded ?? this.store.threaded()).filter((name) => known.has(name));
    this.store.update({ ...cleared(this.store.box()), ...box, table: this.store.table()?.name, threaded });
    this.remarks.say(
      gone.length === 0
        ? 'The box is taken from the file.'
        : `Taken from the file, but this table has no ${gone.join(', ')}.`,
      { name: 'Undo', does: () => this.store.undo() },
    );
    return undefined;
  }

  /** What is kept of the box as it is now: all of it but a flip and what is typed into the first strand. */
  private definition(): Box {
    const box = withFirstText(this.store.box(), firstText(this.store.kept()));
    return { ...box, flip: undefined, table: this.store.table()?.name };
  }

  private kept(kept: StoredBox, says: string): void {
    this.stored.set(kept);
    this.store.kept.set({ ...this.store.box(), strands: kept.box.strands, flip: undefined });
    this.remarks.say(says);
  }

  private run<T>(request: Observable<T>, then: (result: T) => void): void {
    this.busy.set(true);
    request.pipe(finalize(() => this.busy.set(false))).subscribe({
      next: then,
      error: (error: unknown) => {
        const clash = error instanceof HttpErrorResponse && error.status === 412;
        this.remarks.say(
          clash
            ? 'Somebody changed this box in the meantime. Nothing was overwritten; yours can be saved as a new box.'
            : `Not saved. ${messageOf(error)}`,
        );
      },
    });
  }
}

/** Every setting of a box as not set, for laying another one over it. */
function cleared(box: Box): Partial<Box> {
  return Object.fromEntries(Object.keys(box).map((key) => [key, undefined]));
}

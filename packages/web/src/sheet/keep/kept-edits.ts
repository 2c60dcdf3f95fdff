import { Injectable } from '@angular/core';
import type { EditRequest } from '@usual-needle/contract';

/** An edit that is not in the log yet, and what it is, in words. */
export interface WaitingEdit {
  readonly request: EditRequest;
  readonly said: string;
  /** When it was made on this page, by its clock; 0 if it was made before this page was opened. */
  readonly at: number;
  /** True if it is to be undone as soon as it is in the log: it has gone out, and may have arrived. */
  readonly unwanted?: true;
}

const KEY = 'usual-needle edit';

/**
 * Edits that the server has not acknowledged, kept in the browser over a reload and a closed window. One entry each: two windows on a
 * table do not overwrite each other's, and one that both send is done once, by its key.
 */
@Injectable({ providedIn: 'root' })
export class KeptEdits {
  private key(table: number, edit: string): string {
    return `${KEY} ${table} ${edit}`;
  }

  /** @returns false where the browser keeps no more */
  write(table: number, waiting: WaitingEdit): boolean {
    try {
      // There by the time of day, which goes on over a reload.
      localStorage.setItem(this.key(table, waiting.request.key), JSON.stringify({ ...waiting, at: Date.now() }));
      return true;
    } catch {
      return false;
    }
  }

  forget(table: number, edit: string): void {
    try {
      localStorage.removeItem(this.key(table, edit));
    } catch {
      // Nothing was kept there.
    }
  }

  /** The edits of a table, first to last. */
  read(table: number): WaitingEdit[] {
    const found: WaitingEdit[] = [];
    try {
      for (let i = 0; i < localStorage.length; i++) {
        const key = localStorage.key(i) ?? '';
        if (!key.startsWith(`${KEY} ${table} `)) continue;
        const entry = JSON.parse(localStorage.getItem(key) ?? 'null') as WaitingEdit | null;
        if (entry?.request && typeof entry.request.key === 'string') found.push(entry);
      }
    } catch {
      // What cannot be read is left alone.
    }
    return found
      .sort((a, b) => a.at - b.at)
      .map(({ request, said, unwanted }) => ({ request, said, at: 0, ...(unwanted && { unwanted }) }));
  }
}

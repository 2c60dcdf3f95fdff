import { Injectable } from '@angular/core';
import type { Box } from '@usual-needle/contract';

/** A box with changes that are not saved yet, and the version that they were made on. */
interface Draft {
  readonly box: Box;
  readonly version: number | null;
}

const KEY = 'usual-needle draft';

/**
 * Drafts, kept in the browser until they are saved or thrown away: a reload, a closed window or a lost connection loses none.
 * Where the browser keeps nothing, or no more, they last as long as the page.
 */
@Injectable({ providedIn: 'root' })
export class Drafts {
  private readonly here = new Map<string, string>();

  /** @param of `box 7`, or `table 2` for one that was never kept */
  read(of: string): Draft | undefined {
    let text = this.here.get(of);
    try {
      text = localStorage.getItem(`${KEY} ${of}`) ?? text;
      const draft = JSON.parse(text ?? 'null') as Draft | null;
      return draft?.box && typeof draft.box === 'object' ? draft : undefined;
    } catch {
      return undefined;
    }
  }

  write(of: string, draft: Draft): void {
    const text = JSON.stringify(draft);
    this.here.set(of, text);
    try {
      localStorage.setItem(`${KEY} ${of}`, text);
    } catch {
      // Full, or not allowed: then it lasts as long as the page.
    }
  }

  forget(of: string): void {
    this.here.delete(of);
    try {
      localStorage.removeItem(`${KEY} ${of}`);
    } catch {
      // As above.
    }
  }
}

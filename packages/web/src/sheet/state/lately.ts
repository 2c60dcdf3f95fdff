/** Rows that were edited lately: those that stay where they were seen, and those that others changed. */
import { signal } from '@angular/core';
import { STAYS_LIMIT, type SearchRequest } from '@usual-needle/contract';

/** Rows that others changed lately are marked as such for so long, in milliseconds. */
const FRESH_MS = 60_000;
const MOST_FRESH = 500;

type AskedStay = NonNullable<SearchRequest['stays']>[number];

/** A row that others changed lately: who it was, and whether it is new here. */
export interface Fresh {
  readonly who: string | null;
  readonly isNew: boolean;
  /** When it was told, in milliseconds. */
  readonly at: number;
}

export class Lately {
  /** Rows that stay where they were edited, until something is typed or chosen. */
  readonly stays = signal<readonly AskedStay[]>([]);
  /** Rows that others changed since something was typed, by id. */
  readonly fresh = signal<ReadonlyMap<number, Fresh>>(new Map());

  /** @param moves true if it goes to its own place where it has one */
  stay(id: number, index: number, moves: boolean): void {
    this.stays.update((stays) =>
      stays.some((one) => one.id === id) ? stays : [...stays, { id, index, moves }].slice(-STAYS_LIMIT),
    );
  }

  freshen(ids: readonly number[], who: string | null, isNew: (id: number) => boolean): void {
    const now = Date.now();
    this.fresh.update((fresh) => {
      const map = new Map([...fresh].filter(([, { at }]) => now - at < FRESH_MS));
      for (const id of ids) map.set(id, { who, isNew: isNew(id), at: now });
      return new Map([...map].slice(-MOST_FRESH));
    });
  }

  forget(): void {
    if (this.stays().length > 0) this.stays.set([]);
    if (this.fresh().size > 0) this.fresh.set(new Map());
  }

  /** Gives what is asked besides the question, of such rows. */
  asked(): Pick<SearchRequest, 'stays' | 'fresh'> {
    const [stays, fresh] = [this.stays(), this.fresh()];
    return {
      ...(stays.length > 0 && { stays: stays.map((stay) => ({ ...stay })) }),
      ...(fresh.size > 0 && { fresh: [...fresh.keys()] }),
    };
  }
}

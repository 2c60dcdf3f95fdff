import { Injectable, signal } from '@angular/core';

const KEY = 'usual-needle opened';
/** The most tables and boxes of which it is known that they were opened here. */
const MOST = 12;

interface OpenedThing {
  readonly of: 'table' | 'box';
  readonly id: number;
}

function isOpened(one: unknown): one is OpenedThing {
  const { of, id } = (one ?? {}) as Partial<OpenedThing>;
  return (of === 'table' || of === 'box') && Number.isSafeInteger(id);
}

function kept(): OpenedThing[] {
  try {
    const list = JSON.parse(localStorage.getItem(KEY) ?? '[]') as unknown;
    return Array.isArray(list) ? list.filter(isOpened) : [];
  } catch {
    // What somebody else put there is no list of ours.
    return [];
  }
}

/** The tables and boxes that were opened in this browser lately, last first; kept in it and not on the server. */
@Injectable({ providedIn: 'root' })
export class OpenedLately {
  readonly list = signal<readonly OpenedThing[]>(kept());

  note(opened: OpenedThing): void {
    // Another window may have noted others since.
    const others = kept().filter(({ of, id }) => of !== opened.of || id !== opened.id);
    const list = [opened, ...others].slice(0, MOST);
    this.list.set(list);
    try {
      localStorage.setItem(KEY, JSON.stringify(list));
    } catch {
      // A browser that keeps no more goes without.
    }
  }
}

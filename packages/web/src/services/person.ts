import { Injectable, signal } from '@angular/core';

const NAME = 'usual-needle name';
/** Longest name, in letters. */
export const LONGEST_NAME = 60;

/** The person at this browser, by a name of their own choosing that it keeps: until people can sign in, that is all that is known. */
@Injectable({ providedIn: 'root' })
export class Person {
  readonly name = signal(read());

  /** Gives the name as a change says by whom it is. */
  asWho(): { readonly who?: string } {
    const who = this.name();
    return who === '' ? {} : { who };
  }

  call(name: string): void {
    const called = name.trim().slice(0, LONGEST_NAME);
    this.name.set(called);
    try {
      localStorage.setItem(NAME, called);
    } catch {
      // Then it lasts as long as the page.
    }
  }
}

function read(): string {
  try {
    return localStorage.getItem(NAME) ?? '';
  } catch {
    return '';
  }
}

/** The letters a name is told by in little room: `T. Kessel` is TK. */
export function initials(name: string): string {
  const words = name.split(/[^\p{L}\p{N}]+/u).filter(Boolean);
  const letters = words.length > 1 ? [words[0], words[words.length - 1]] : words;
  return letters.map((word) => [...word][0].toUpperCase()).join('') || '–';
}

/** How rows are to be taken out: which, in which form, and how it is written. It is remembered in the browser. */
import type { TakeOutForm, Writing } from '@usual-needle/contract';

export interface How extends Required<Writing> {
  readonly rows: 'on show' | 'selected' | 'others';
  readonly columns: 'on show' | 'every column';
  readonly form: Exclude<TakeOutForm, 'take-away'>;
}

const KEY = 'usual-needle take-out';

const USUAL: How = {
  rows: 'on show',
  columns: 'on show',
  form: 'xlsx',
  header: true,
  safe: false,
  delimiter: 'comma',
  mark: false,
  marks: false,
};

/** The way that was chosen last; but rows and columns are of the moment. */
export function rememberedHow(): How {
  try {
    const kept = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Record<string, unknown>;
    const entries = Object.entries(USUAL).map(([name, usual]) => [
      name,
      isLike(kept[name], usual) ? kept[name] : usual,
    ]);
    return { ...(Object.fromEntries(entries) as unknown as How), rows: 'on show', columns: 'on show' };
  } catch {
    return USUAL;
  }
}

export function rememberHow(how: How): void {
  try {
    localStorage.setItem(KEY, JSON.stringify(how));
  } catch {
    // A browser that keeps nothing begins anew each time.
  }
}

const CHOICES: readonly unknown[] = ['csv', 'json', 'ndjson', 'xlsx', 'page', 'comma', 'semicolon', 'tab'];

function isLike(kept: unknown, usual: unknown): boolean {
  return typeof kept === typeof usual && (typeof usual !== 'string' || CHOICES.includes(kept));
}

/** Reasons why a question has no answer, each with the change to the question that takes it away. */
import type { Question } from '../search/index.js';
import { askedBy, changed, type RemedyChange } from './change.js';

/** The most useful first. */
const KINDS = [
  'near spelling',
  'signs',
  'other columns',
  'unreadable',
  'picker',
  'strand',
  'case',
  'accents',
  'position',
  'reading',
  'together',
  'any word',
  'one keyword',
] as const;

export type ObstacleKind = (typeof KINDS)[number];

export interface Reason {
  readonly kind: ObstacleKind;
  readonly change: RemedyChange;
  /** Rows on show once the change is made; never 0. */
  readonly rows: number;
  /** The keyword it is about, as typed. */
  readonly keyword?: string;
  /** Strand and number of that keyword, as the search numbers them; 0 for none. */
  readonly strand?: number;
  /** Rows of the whole table that hold the word offered, or the keyword, in the columns named. */
  readonly found?: number;
  /** Columns it is about, with the rows of each. */
  readonly columns?: readonly { readonly column: number; readonly rows: number }[];
  /** The word offered, or what could not be read. */
  readonly text?: string;
}

/** Most reasons given. */
export const MOST_REASONS = 5;
/** A reason that is not yet known to give rows. */
export type Offer = Omit<Reason, 'rows'>;

/** Tells whether both are about the same keyword. */
export function sameKeyword(a: Offer, b: Offer): boolean {
  return a.keyword !== undefined && a.keyword === b.keyword && a.strand === b.strand;
}

/** Tells whether a reason changes nothing but how several keywords are spelt: what was most likely meant, however few rows it gives. */
function mendsOnly({ kind, text = '' }: Reason): boolean {
  return kind === 'together' && text.split(', ').every((part) => part === 'near spelling' || part === 'signs');
}

/** The reasons worth giving: none twice; one near spelling a keyword, the one that gives most. */
export function chosen(question: Question, reasons: readonly Reason[]): Reason[] {
  const comesTo = new Map(reasons.map((reason) => [reason, askedBy(changed(question, reason.change))]));
  const kept: Reason[] = [];
  const ordered = [...reasons].sort(
    (a, b) =>
      KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind) ||
      Number(mendsOnly(b)) - Number(mendsOnly(a)) ||
      b.rows - a.rows ||
      (b.found ?? 0) - (a.found ?? 0),
  );
  for (const reason of ordered) {
    const same = (one: Reason): boolean => comesTo.get(one) === comesTo.get(reason);
    const spelt = (one: Reason): boolean =>
      (one.kind === 'near spelling' || one.kind === 'signs') && one.kind === reason.kind && sameKeyword(one, reason);
    if (!kept.some((one) => same(one) || spelt(one))) kept.push(reason);
  }
  return kept.slice(0, MOST_REASONS);
}

/** Finding the column that a name before `:` or a comparison means. */
import { fold, type WrittenForm } from '../text/index.js';

/** A column, as far as the notation needs to know it. */
export interface NamedColumn extends WrittenForm {
  readonly name: string;
  /** Names it had before. */
  readonly formerly?: readonly string[];
  readonly kind: 'text' | 'number' | 'date' | 'yes/no' | 'choice';
  /** A cell of the column as it is shown, to say what a value looks like there; undefined where all are blank. */
  readonly example?: () => string | undefined;
}

type ColumnChoice =
  | { readonly found: 'one'; readonly index: number }
  | { readonly found: 'none' }
  | { readonly found: 'several'; readonly names: readonly string[] };

/** A whole name, a beginning that only one column has, or a name that one had before; case and accents ignored. */
export function columnNamed(columns: readonly NamedColumn[], typed: string): ColumnChoice {
  const name = fold(typed);
  if (name === '') return { found: 'none' };
  const folded = columns.map((column) => fold(column.name));
  const whole = folded.indexOf(name);
  if (whole >= 0 && folded.lastIndexOf(name) === whole) return { found: 'one', index: whole };
  const beginnings = folded.flatMap((candidate, index) => (candidate.startsWith(name) ? [index] : []));
  if (beginnings.length === 1) return { found: 'one', index: beginnings[0] };
  if (beginnings.length === 0) {
    const before = columns.findIndex(({ formerly }) => formerly?.some((one) => fold(one) === name));
    return before < 0 ? { found: 'none' } : { found: 'one', index: before };
  }
  return { found: 'several', names: beginnings.map((index) => columns[index].name) };
}

import type { Column } from '@usual-needle/contract';

/** A kind that a column may have, with how it is read. */
interface KindChoice {
  readonly words: string;
  readonly to: Pick<Column, 'kind' | 'dateOrder' | 'decimal'>;
}

export const KINDS: readonly KindChoice[] = [
  { words: 'text', to: { kind: 'text' } },
  { words: 'choice', to: { kind: 'choice' } },
  { words: 'number, decimal point', to: { kind: 'number' } },
  { words: 'number, decimal comma', to: { kind: 'number', decimal: 'comma' } },
  { words: 'date, year first or by name', to: { kind: 'date' } },
  { words: 'date, day first', to: { kind: 'date', dateOrder: 'day first' } },
  { words: 'date, month first', to: { kind: 'date', dateOrder: 'month first' } },
  { words: 'yes/no', to: { kind: 'yes/no' } },
];

/** The choice that a column is. */
export function kindOf({ kind, dateOrder = 'year first', decimal = 'point' }: Column): KindChoice | undefined {
  return KINDS.find(
    ({ to }) => to.kind === kind && (to.dateOrder ?? 'year first') === dateOrder && (to.decimal ?? 'point') === decimal,
  );
}

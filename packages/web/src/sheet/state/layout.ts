import type { Box, Column } from '@usual-needle/contract';

/** A column as it is laid out in the grid. */
export interface LaidOutColumn {
  readonly name: string;
  readonly kind: Column['kind'];
  /** The column as the table has it. */
  readonly spec: Column;
  readonly width: number;
  /** Set in the type made for codes. */
  readonly code: boolean;
}

type Shown = { name: string; width?: number };

/** A width that fits most cells of a column whose box does not give one, in pixels. */
export function usualWidth(column: Column): number {
  if (column.kind === 'date' || column.kind === 'number') return 120;
  if (column.kind === 'choice' || column.kind === 'yes/no') return 150;
  return /descr|note|says|text|comment/i.test(column.name) ? 300 : 160;
}

/** The columns on show, first to last. */
export function laidOut(shown: Box['columns'], all: readonly Column[]): LaidOutColumn[] {
  const named: readonly { name: string; width?: number }[] = shown ?? all;
  return named.flatMap(({ name, width }) => {
    const column = all.find((candidate) => candidate.name === name);
    const code = /\bno\.?$|^code$|serial/i.test(name);
    return column ? [{ name, kind: column.kind, spec: column, width: width ?? usualWidth(column), code }] : [];
  });
}

/** Columns on show with the widths they have, for a change of one of them. */
export function shownOf(shown: Box['columns'], all: readonly Column[]): Shown[] {
  return [...(shown ?? all.map(({ name }) => ({ name })))];
}

/** Where a column was before it was hidden. */
export interface HiddenPlace {
  readonly column: Shown;
  readonly before: readonly string[];
}

/** The columns without one, which always leaves one. */
export function hidden(shown: readonly Shown[], name: string): { columns: Shown[]; place: HiddenPlace } | undefined {
  const at = shown.findIndex((one) => one.name === name);
  if (at < 0 || shown.length < 2) return undefined;
  const place = { column: shown[at], before: shown.slice(0, at).map((one) => one.name) };
  return { columns: shown.filter((_, i) => i !== at), place };
}

/** The columns with one more, where it was before it was hidden, as wide as then; else where the table has it. */
export function shownAgain(
  shown: readonly Shown[],
  name: string,
  all: readonly Column[],
  place: HiddenPlace | undefined,
): Shown[] {
  const order = all.map((column) => column.name);
  const before = place?.before ?? order.slice(0, order.indexOf(name));
  const after = shown.reduce((last, one, i) => (before.includes(one.name) ? i + 1 : last), 0);
  return [...shown.slice(0, after), place?.column ?? { name }, ...shown.slice(after)];
}

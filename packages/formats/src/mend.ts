/** Rows as a table takes them: each as long as its header, and nothing in them that cannot be kept. */
import { HALF_LETTER, isStorable, LIMITS, type FileChoices } from '@usual-needle/contract';
import { shortened, type TakeNote, type NoteKind } from './notes.js';
import { FileProblem } from './problem.js';

export type FileRow = readonly string[];

/** Rows, and the line that each starts on. */
export interface Batch {
  readonly rows: readonly FileRow[];
  readonly lines: readonly number[];
}

const MAYBE_UNKEEPABLE = /[\0\ud800-\udfff]/;

/** The names of columns, by the first row. @throws FileProblem for what is not to be mended */
export function columnNames(header: FileRow, choices: FileChoices, notice?: TakeNote, line = 1): string[] {
  if (header.length > LIMITS.columns)
    throw new FileProblem(`${header.length} columns; a table takes ${LIMITS.columns} at most.`, line);
  const mends = choices.unkeepable === 'mend';
  const seen = new Set<string>();
  return header.map((raw, i) => {
    const mended = mendedName(raw.trim(), i, seen, line, mends);
    if (mended !== raw.trim()) notice?.({ what: 'header', line, example: raw.trim() === '' ? mended : shortened(raw) });
    seen.add(mended);
    return mended;
  });
}

function mendedName(name: string, i: number, seen: ReadonlySet<string>, line: number, mends: boolean): string {
  const refuse = (why: string): void => {
    if (!mends) throw new FileProblem(why, line);
  };
  if (name === '') refuse(`Column ${i + 1} has no name.`);
  if (name.length > LIMITS.name) refuse(`The name of column ${i + 1} is longer than ${LIMITS.name} characters.`);
  if (!isStorable(name)) refuse(`The name of column ${i + 1} holds a character that cannot be kept.`);
  const base =
    name
      .replaceAll('\0', '')
      .replace(HALF_LETTER, '\ufffd')
      .slice(0, LIMITS.name - 5) || `Column ${i + 1}`;
  const whole = name.length <= LIMITS.name && isStorable(name) && name !== '' ? name : base;
  if (!seen.has(whole)) return whole;
  refuse(`Two columns are named “${whole}”.`);
  for (let n = 2; ; n++) if (!seen.has(`${base} ${n}`)) return `${base} ${n}`;
}

/** Names for columns of a file without a header. */
export function numberedNames(count: number): string[] {
  if (count > LIMITS.columns) throw new FileProblem(`${count} columns; a table takes ${LIMITS.columns} at most.`, 1);
  return Array.from({ length: count }, (_, i) => `Column ${i + 1}`);
}

/** A row with blank cells at its end, so that it has so many at least. */
export function padded(row: FileRow, length: number): FileRow {
  return row.length >= length ? row : [...row, ...Array.from({ length: length - row.length }, () => '')];
}

export class RowMender {
  private rows = 0;

  /** @param joint what stands between cells that are joined */
  constructor(
    /** How many there are; further ones may come to it. */
    public columns: number,
    private readonly choices: FileChoices,
    private readonly notice: TakeNote | undefined,
    private readonly joint = ' ',
  ) {}

  /** Gives those of the rows that are kept, as they are kept. @throws FileProblem */
  mend({ rows, lines }: Batch): Batch {
    let kept: Batch = { rows, lines };
    const wrong = rows.findIndex((cells) => cells.length !== this.columns || cells.some((cell) => this.isWrong(cell)));
    if (wrong >= 0) {
      const mended = rows.slice(0, wrong);
      const at = lines.slice(0, wrong);
      for (let i = wrong; i < rows.length; i++) {
        const row = this.mendRow(rows[i], lines[i]);
        if (!row) continue;
        (mended as FileRow[]).push(row);
        at.push(lines[i]);
      }
      kept = { rows: mended, lines: at };
    }
    if (this.rows + kept.rows.length > LIMITS.rows)
      throw new FileProblem(`The file has more than ${LIMITS.rows} rows.`, kept.lines[LIMITS.rows - this.rows]);
    this.rows += kept.rows.length;
    return kept;
  }

  private isWrong(cell: string): boolean {
    return cell.length > LIMITS.cell || (MAYBE_UNKEEPABLE.test(cell) && !isStorable(cell));
  }

  private mendRow(cells: FileRow, line: number): FileRow | undefined {
    const { columns, choices } = this;
    let row = cells;
    const has = (): string => (cells.length === 1 ? '1 cell' : `${cells.length} cells`);
    if (row.length > columns) {
      const way = choices.tooMany ?? 'refuse';
      if (way === 'refuse') throw new FileProblem(`Line ${line} has ${has()}; the header has ${columns}.`, line);
      this.tell('tooMany', line, row.slice(columns).join(this.joint));
      if (way === 'leave out') return undefined;
      const last = way === 'join' ? row.slice(columns - 1).join(this.joint) : row[columns - 1];
      row = [...row.slice(0, columns - 1), last];
    } else if (row.length < columns) {
      const way = choices.tooFew ?? 'refuse';
      if (way === 'refuse') throw new FileProblem(`Line ${line} has ${has()}; the header has ${columns}.`, line);
      this.tell('tooFew', line, row.join(this.joint));
      if (way === 'leave out') return undefined;
      row = padded(row, columns);
    }
    return row.some((cell) => this.isWrong(cell)) ? row.map((cell) => this.mendCell(cell, line)) : row;
  }

  private mendCell(cell: string, line: number): string {
    let mended = cell;
    const each = (what: NoteKind, is: boolean, why: string, mend: (text: string) => string): void => {
      if (!is) return;
      if (this.choices.unkeepable !== 'mend') throw new FileProblem(`A cell of line ${line} ${why}.`, line);
      this.tell(what, line, mended);
      mended = mend(mended);
    };
    each('nul', cell.includes('\0'), 'holds a NUL character', (text) => text.replaceAll('\0', ''));
    each('half letter', cell.search(HALF_LETTER) >= 0, 'holds a character that cannot be kept', (text) =>
      text.replace(HALF_LETTER, '\ufffd'),
    );
    each('tooLong', mended.length > LIMITS.cell, `is longer than ${LIMITS.cell} characters`, (text) =>
      text.slice(0, LIMITS.cell).replace(/[\ud800-\udbff]$/, ''),
    );
    return mended;
  }

  private tell(what: NoteKind, line: number, example: string): void {
    this.notice?.({ what, line, example: shortened(example) });
  }
}

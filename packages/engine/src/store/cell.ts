/**
 * One cell, with the texts it is compared by. Each is worked out when first asked for, since most searches need one.
 */
import { fold, foldForPattern, isBlank, isEven, LOOSE, type FoldSetting } from '../text/index.js';
import { isValued, plainText, shownText, valueOf, type ColumnSpec } from './kinds.js';

/** Between the two faces of a cell in its folded text. Folding leaves no line break, so no hit can cross it. */
export const FACE_BREAK = '\n';

/**
 * Folded shown text; for a number or date cell whose plain text folds to something else, that too, after a face break.
 */
export function foldedFaces(raw: string, column: ColumnSpec, setting: FoldSetting = LOOSE): string {
  if (!isValued(column)) return fold(raw, setting);
  const shown = fold(shownText(raw, column), setting);
  const plain = fold(plainText(raw, column) ?? '', setting);
  return plain === '' || plain === shown ? shown : shown + FACE_BREAK + plain;
}

export class Cell {
  private loose: string | undefined;
  private strict: string | undefined;
  private strictSetting: FoldSetting | undefined;

  constructor(
    readonly raw: string,
    readonly column: ColumnSpec,
  ) {}

  get blank(): boolean {
    return this.folded(LOOSE) === '' && isBlank(this.raw);
  }

  get shown(): string {
    return shownText(this.raw, this.column);
  }

  /** Number, or days since 1970-01-01, by the column's kind. */
  get value(): number | undefined {
    return valueOf(this.raw, this.column);
  }

  /** Folded faces, parted by a face break. */
  folded(setting: FoldSetting): string {
    if (setting.case === 'ignore' && setting.accents === 'ignore') {
      return (this.loose ??= foldedFaces(this.raw, this.column));
    }
    if (this.strictSetting !== setting) {
      if (!isValued(this.column) && isEven(this.raw))
        this.strict = setting.case === 'respect' ? this.raw : this.folded(LOOSE);
      else this.strict = foldedFaces(this.raw, this.column, setting);
      this.strictSetting = setting;
    }
    return this.strict!;
  }

  /** The shown text, and the plain text if it differs; none of a blank cell. */
  get faces(): string[] {
    if (this.blank) return [];
    if (!isValued(this.column)) return [this.raw];
    const { shown } = this;
    const plain = plainText(this.raw, this.column);
    return plain === undefined || plain === shown ? [shown] : [shown, plain];
  }

  /** The faces as a pattern runs over them. */
  patternFaces(setting: FoldSetting): string[] {
    return this.faces.map((face) => foldForPattern(face, setting));
  }
}

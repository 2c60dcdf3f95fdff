/**
 * A cell, with the texts it is compared by. Each is worked out when first asked for, since most searches need one.
 */
import { fold, foldForPattern, isBlank, isEven, LOOSE, type FoldSetting } from '../text/index.js';
import { isValued, plainText, shownText, valueOf, type ColumnSpec } from './kinds.js';

/** Stands between the faces of a cell in its folded text. Folding leaves no line break, so no hit can cross it. */
export const FACE_BREAK = '\n';

/**
 * The texts that a number or date cell is compared by, each different from the others: as shown, in its plain form, as brought
 * in. A cell that its kind cannot read has but the last.
 */
function facesOf(raw: string, column: ColumnSpec): string[] {
  const shown = shownText(raw, column);
  const faces = [shown];
  for (const face of [plainText(raw, column), raw]) if (face !== undefined && !faces.includes(face)) faces.push(face);
  return faces;
}

/** A cell's faces, folded, and parted by face breaks. Those that fold alike stand there once. */
export function foldedFaces(raw: string, column: ColumnSpec, setting: FoldSetting = LOOSE): string {
  if (!isValued(column)) return fold(raw, setting);
  const [shown, ...others] = facesOf(raw, column).map((face) => fold(face, setting));
  return [shown, ...new Set(others)].filter((face, i) => i === 0 || (face !== '' && face !== shown)).join(FACE_BREAK);
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
    return isBlank(this.raw) && this.folded(LOOSE) === '';
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

  /** The shown text, and the plain text and the text as brought in if they differ; none of a blank cell. */
  get faces(): string[] {
    if (this.blank) return [];
    return isValued(this.column) ? facesOf(this.raw, this.column) : [this.raw];
  }

  /** The faces as a pattern runs over them. */
  patternFaces(setting: FoldSetting): string[] {
    return this.faces.map((face) => foldForPattern(face, setting));
  }
}

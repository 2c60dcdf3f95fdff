/** The changed rows that are told of one by one, at least. */
const KEPT = 512;

/** The rows of a segment that were changed, one version after another: what was worked out for an older version can be mended. */
export class RowChanges {
  /** Rises with every change. */
  version = 0;
  /** The row of each version since `from`. */
  private readonly rows: number[] = [];
  private from = 0;

  row(row: number): void {
    this.version++;
    this.rows.push(row);
    if (this.rows.length < 2 * KEPT) return;
    this.rows.splice(0, KEPT);
    this.from += KEPT;
  }

  /** Makes void all that was worked out for an older version. */
  all(): void {
    this.version++;
    this.rows.length = 0;
    this.from = this.version;
  }

  /** Rows changed since a version, one of them maybe several times; undefined if that cannot be told. */
  since(version: number): readonly number[] | undefined {
    return version < this.from ? undefined : this.rows.slice(version - this.from);
  }
}

/** The slots of a table that were changed lately, so that what was worked out by slot is mended and not made anew. */

/** Changed slots that are remembered at least. */
const EDITS_KEPT = 10_000;

export class SlotEdits {
  /** Rises with every change. */
  version = 0;
  /** Rises when slots hold other rows, or columns other cells: whatever was worked out by slot is void then. */
  structure = 0;
  /** Slots changed since the structure was last changed, and the version each change made. */
  private readonly edits: { readonly version: number; readonly slot: number }[] = [];

  edited(slot: number): void {
    this.version++;
    this.edits.push({ version: this.version, slot });
    if (this.edits.length > 2 * EDITS_KEPT) this.edits.splice(0, EDITS_KEPT);
  }

  rearranged(): void {
    this.version++;
    this.structure++;
    this.edits.length = 0;
  }

  /** Slots changed after a version; undefined if rows were rearranged since, or too many were changed. */
  since(version: number, structure: number): number[] | undefined {
    if (structure !== this.structure) return undefined;
    const from = this.edits.findIndex((edit) => edit.version > version);
    if (from === 0 && this.edits.length > EDITS_KEPT) return undefined;
    return from < 0 ? [] : [...new Set(this.edits.slice(from).map(({ slot }) => slot))];
  }
}

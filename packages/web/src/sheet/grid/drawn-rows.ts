import { computed, Injectable, inject } from '@angular/core';
import { Edits } from '../keep/edits';
import { Answers } from '../state/answers';
import { SheetStore } from '../state/sheet-store';
import type { GridRow } from './grid-row';
import { type CellsLook, PLAIN } from './row-cells';
import { noteOf, over } from './row-notes';
import { Selection } from './selection';
import { Viewport } from './viewport';

/** Width in pixels of the column of notes. The same in the styles. */
const NOTES_WIDTH = 150;

/** Rows drawn above and below the ones in view, so that a short scroll shows no gap. */
const MARGIN = 4;

/** The rows that are drawn: those in view and a few more, with the edits that are on their way, and what has become of them. */
@Injectable()
export class DrawnRows {
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  private readonly edits = inject(Edits);
  private readonly selection = inject(Selection);
  private readonly viewport = inject(Viewport);

  readonly rows = computed<GridRow[]>(() => {
    const { viewport } = this;
    const first = Math.floor(viewport.first());
    const from = Math.max(0, first - MARGIN);
    // At rest at the top, where typing leads, nothing is drawn out of sight: it would cost each keystroke its share.
    const below = viewport.offset() > 0 ? MARGIN : 0;
    const to = Math.min(viewport.shown(), first + viewport.fits() + 1 + below);
    const asked = this.answers.answer()?.asked ?? false;
    const marking = asked && this.store.definition().effect === 'mark in place';
    const [span, many, selected] = [this.selection.span(), this.selection.isMany(), this.selection.ids()];
    const caret = this.selection.caret();
    const [edits, leaving, fresh] = [this.edits.over(), this.edits.leaving(), this.answers.lately.fresh()];
    const rows: GridRow[] = [];
    for (let index = from; index < to; index++) {
      const fetched = this.answers.rowAt(index);
      const row = fetched && over(fetched, edits.get(fetched.id));
      const note = row && noteOf(row, fresh.get(row.id), leaving.has(row.id));
      const inBlock = many && span !== undefined && row !== undefined && selected.has(row.id);
      const isAt = index === caret?.index && !caret.isGone && (caret.id === undefined || !row || row.id === caret.id);
      rows.push({
        index,
        top: viewport.topOf(index),
        place: row ? String(row.place) : '',
        position: row?.position ?? -1,
        match: row !== undefined && row.match && asked,
        at: isAt,
        content: row,
        note: note?.text ?? '',
        noteKind: note?.kind ?? '',
        from: inBlock ? span.left : -1,
        to: inBlock ? span.right : -1,
        said: row
          ? [row.place, marking && row.match ? 'matches' : '', note?.text ?? ''].filter(Boolean).join(', ')
          : '',
      });
    }
    return rows;
  });

  /** The column that says most of a record: what a folded row shows first. */
  readonly lead = computed(() => {
    const threaded = new Set(this.store.threaded());
    const place = this.viewport.layout().findIndex(({ name, kind }) => kind === 'text' && threaded.has(name));
    return Math.max(0, place);
  });
  /** How the first cell of each row is drawn, where it stays in view. */
  readonly firstCell = computed<CellsLook>(() => ({ ...PLAIN, columns: this.viewport.layout().slice(0, 1) }));

  /** Whether there is a column of notes: while anything is told of rows, so that it does not come and go by scrolling. */
  readonly aside = computed(
    () =>
      !this.viewport.folded() && (this.answers.lately.fresh().size > 0 || this.rows().some(({ note }) => note !== '')),
  );
  /** Width in pixels of the column of notes; 0 without one. */
  readonly notesWidth = computed(() => (this.aside() ? NOTES_WIDTH : 0));
  /** Width in pixels of all columns, that of notes included. */
  readonly width = computed(() => this.viewport.width() + this.notesWidth());

  /** The part of the whole table that is in view, from 0 to 1. */
  readonly part = computed(() => {
    const total = this.answers.answer()?.total ?? 0;
    const rows = this.rows().filter(({ position }) => position >= 0);
    if (rows.length === 0 || total === 0) return { from: 0, to: 0 };
    const inView = rows.filter(({ index }) => index >= Math.floor(this.viewport.first()));
    const places = (inView.length > 0 ? inView : rows).map(({ position }) => position);
    return { from: Math.min(...places) / total, to: (Math.max(...places) + 1) / total };
  });
}

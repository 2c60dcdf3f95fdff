import {
  afterNextRender,
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  type ElementRef,
  inject,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { type Column, LIMITS } from '@usual-needle/contract';
import { catchError, map, of } from 'rxjs';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { switchMap } from 'rxjs';
import { Api } from '../../services/api';
import { SheetStore } from '../state/sheet-store';
import { unfit } from './unfit';

/** Values that are offered of a choice column. */
const OFFERED = 8;

/** Where the keeper goes on once a cell is written. */
type Onward = 'down' | 'up' | 'right' | 'left' | 'stay';

/** The text that a cell is to have, and the one that it had when typing began. */
export interface Written {
  /** Undefined where nothing was typed: then nothing is written. */
  readonly text: string | undefined;
  readonly was: string;
  readonly onward: Onward;
}

/**
 * The field of an open cell. Enter and Tab write it and go on, Esc leaves it as it was, a click elsewhere writes it: what was typed is
 * not lost. A choice column offers the values it has, and takes new ones.
 */
@Component({
  selector: 'un-cell-editor',
  template: `
    <div [attr.role]="inGrid() ? 'gridcell' : null">
      <textarea
        #field
        rows="1"
        spellcheck="false"
        autocomplete="off"
        [attr.aria-label]="label()"
        [attr.aria-autocomplete]="offered() ? 'list' : null"
        [attr.aria-controls]="offered() ? 'cell-values' : null"
        [attr.aria-activedescendant]="chosen() >= 0 ? 'cell-value-' + chosen() : null"
        [value]="value()"
        (input)="typedOn()"
        (keydown)="key($event)"
        (blur)="left()"
      ></textarea>
      @if (doubt(); as words) {
        <p role="status">{{ words }}</p>
      }
      @if (offers().length > 0) {
        <ul id="cell-values" role="listbox" aria-label="Values of this column">
          @for (value of offers(); track value) {
            <li
              role="option"
              [id]="'cell-value-' + $index"
              [attr.aria-selected]="$index === chosen()"
              [class.on]="$index === chosen()"
              (pointerdown)="$event.preventDefault(); take(value)"
            >
              {{ value }}
            </li>
          }
        </ul>
      }
    </div>
  `,
  host: { '[attr.role]': "inGrid() ? 'row' : null" },
  styles: `
    :host {
      display: block;
      position: relative;
    }
    textarea {
      display: block;
      width: 100%;
      min-height: var(--row, 33px);
      max-height: 200px;
      padding: 5px 7px;
      font: inherit;
      line-height: 20px;
      color: var(--ink);
      background: var(--leaf);
      border: 2px solid var(--thread);
      border-radius: 6px;
      resize: none;
      overflow: auto;
      field-sizing: content;
      white-space: pre-wrap;
    }
    textarea:focus-visible {
      outline: none;
    }
    p {
      position: absolute;
      top: 100%;
      left: 0;
      z-index: 1;
      margin-top: 2px;
      padding: 2px 8px;
      font-size: 12.5px;
      line-height: 18px;
      white-space: nowrap;
      color: color-mix(in srgb, var(--stitch-4) 75%, var(--ink));
      background: var(--tint-4);
      border-radius: 6px;
    }
    ul {
      position: absolute;
      top: 100%;
      left: 0;
      min-width: 100%;
      max-width: 320px;
      margin: 2px 0 0;
      padding: 4px;
      list-style: none;
      line-height: 20px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 8px;
      box-shadow: 0 6px 18px rgb(28 29 32 / 0.18);
    }
    li {
      padding: 4px 8px;
      border-radius: 5px;
      white-space: nowrap;
      overflow: hidden;
      text-overflow: ellipsis;
      cursor: pointer;
    }
    li.on,
    li:hover {
      background: var(--tint-1);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class CellEditor {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  readonly column = input.required<Column>();
  readonly text = input.required<string>();
  readonly label = input.required<string>();
  /** True if what is in it was just typed: then the caret is behind it, else all of it is selected. */
  readonly typed = input(false);
  /** False where it is not among the cells of the grid. */
  readonly inGrid = input(true);
  readonly written = output<Written>();
  readonly leaves = output<void>();
  /** Takes what was typed where the page, or the cell, goes away before it was written. */
  readonly rescue = input.required<(text: string, was: string) => void>();

  private readonly field = viewChild.required<ElementRef<HTMLTextAreaElement>>('field');
  private readonly now = signal<string | undefined>(undefined);
  /** The text in the field: what was typed stays, whatever the cell becomes meanwhile. */
  protected readonly value = computed(() => this.now() ?? this.text());
  /** The cell's text when typing began. */
  private was: string | undefined;
  protected readonly chosen = signal(-1);
  protected readonly offered = computed(() => ['choice', 'yes/no'].includes(this.column().kind));
  protected readonly doubt = computed(() => tooLong(this.value()) || unfit(this.value(), this.column()));
  private ended = false;

  private readonly values = toSignal(
    toObservable(this.column).pipe(
      switchMap((column) => {
        const table = this.store.table();
        if (column.kind === 'yes/no') return of(['yes', 'no']);
        if (column.kind !== 'choice' || !table) return of([]);
        const question = { threaded: [], strands: [] };
        return this.api.offers(table.id, { question, column: column.name }).pipe(
          map(({ values }) => values.map(({ value }) => value).filter((value) => value !== '')),
          catchError(() => of([])),
        );
      }),
    ),
    { initialValue: [] as string[] },
  );
  /** The values that go on as what is typed begins, then those that hold it; all while nothing has been typed. */
  protected readonly offers = computed(() => {
    if (!this.offered()) return [];
    const typed = (this.now() ?? (this.typed() ? this.text() : '')).trim().toLocaleLowerCase();
    const lower = (value: string): string => value.toLocaleLowerCase();
    const values = this.values().filter((value) => lower(value).includes(typed));
    const begins = values.filter((value) => lower(value).startsWith(typed));
    const rest = values.filter((value) => !lower(value).startsWith(typed));
    const list = [...begins, ...rest].slice(0, OFFERED);
    return list.length === 1 && list[0] === this.now() ? [] : list;
  });

  constructor() {
    const rescue = (): void => {
      const text = this.now();
      if (this.ended || text === undefined) return;
      this.ended = true;
      const was = this.was ?? this.text();
      this.rescue()(asEndedBefore(text, was), was);
    };
    addEventListener('pagehide', rescue);
    inject(DestroyRef).onDestroy(() => {
      removeEventListener('pagehide', rescue);
      rescue();
    });
    afterNextRender(() => {
      const { nativeElement: field } = this.field();
      field.focus();
      if (this.typed()) field.setSelectionRange(field.value.length, field.value.length);
    });
    // What the cell becomes is selected, too, so that the first key takes its place.
    afterRenderEffect(() => {
      this.text();
      if (untracked(this.now) === undefined && !untracked(this.typed)) this.field().nativeElement.select();
    });
  }

  protected typedOn(): void {
    this.was ??= this.text();
    this.now.set(this.field().nativeElement.value);
    this.chosen.set(-1);
  }

  protected key(event: KeyboardEvent): void {
    if (event.isComposing || event.keyCode === 229) return;
    const { key } = event;
    const newLine = key === 'Enter' && (event.altKey || event.ctrlKey || event.metaKey);
    if (newLine) this.breakLine();
    else if (key === 'Enter') this.end(event.shiftKey ? 'up' : 'down');
    else if (key === 'Tab') this.end(event.shiftKey ? 'left' : 'right');
    else if (key === 'Escape') this.leave();
    else if ((key === 'ArrowDown' || key === 'ArrowUp') && this.offers().length > 0)
      this.choose(key === 'ArrowDown' ? 1 : -1);
    else {
      // Its keys are its own: none of them means anything to the sheet.
      event.stopPropagation();
      return;
    }
    event.preventDefault();
    event.stopPropagation();
  }

  private breakLine(): void {
    const { nativeElement: field } = this.field();
    field.setRangeText('\n', field.selectionStart, field.selectionEnd, 'end');
    this.typedOn();
  }

  private choose(by: 1 | -1): void {
    const count = this.offers().length;
    this.chosen.update((at) => (at < 0 ? (by > 0 ? 0 : count - 1) : (at + by + count) % count));
  }

  protected take(value: string): void {
    this.now.set(value);
    this.end('stay', value);
  }

  private end(onward: Onward, chosen = this.offers()[this.chosen()] as string | undefined): void {
    const was = this.was ?? this.text();
    const now = chosen ?? this.now();
    const text = now === undefined ? undefined : asEndedBefore(now, was);
    if (this.ended || tooLong(text ?? '') !== '') return;
    this.ended = true;
    this.written.emit({ text, was, onward });
  }

  private leave(): void {
    if (this.ended) return;
    this.ended = true;
    this.leaves.emit();
  }

  /** The focus has gone elsewhere: what was typed is written. */
  protected left(): void {
    // Another window in front is no leaving: the cell is still open when one comes back.
    if (document.hasFocus()) this.end('stay');
  }
}

/** Gives what is typed, with the line ends that the cell had: a field has its own. */
function asEndedBefore(typed: string, was: string): string {
  const ends = /\r\n/.test(was) ? '\r\n' : /\r/.test(was) && !was.includes('\n') ? '\r' : '\n';
  return ends === '\n' ? typed : typed.replace(/\r\n|\n/g, ends);
}

/** Says so if a text is longer than a cell may be; it stays in the field. */
function tooLong(text: string): string {
  if (text.length <= LIMITS.cell) return '';
  const [most, has] = [LIMITS.cell, text.length].map((count) => count.toLocaleString());
  return `A cell holds ${most} letters at most; this is ${has}. Nothing of it is lost while it is open.`;
}

import {
  afterNextRender, afterRenderEffect, ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, signal, untracked, viewChild,
} from '@angular/core'; // prettier-ignore
import { counted } from '../services/numbers';
import type { Strand } from './box-change';
import type { CellPart } from './cell-parts';

/** One strand of the box: what is typed, its keywords tinted and stitched as they are typed. */
@Component({
  selector: 'un-search-box',
  template: `
    @if (first()) {
      <label class="verb" [for]="id()">Find</label>
    } @else {
      <select
        class="verb"
        aria-label="What this strand does"
        [value]="strand().verb"
        (change)="set({ verb: $any($event.target).value })"
      >
        <option>plus</option>
        <option>minus</option>
        <option>within</option>
      </select>
    }
    <div class="field">
      <div class="echo" aria-hidden="true" [style.transform]="shift()">
        @for (part of parts(); track $index) {
          <span [class]="part.mark">{{ part.text }}</span>
        }
      </div>
      <input
        #field
        [id]="id()"
        type="text"
        autocomplete="off"
        autocapitalize="off"
        spellcheck="false"
        [attr.aria-label]="first() ? null : strand().verb"
        [attr.aria-invalid]="problem() ? true : null"
        [attr.aria-describedby]="first() ? 'sentence notice' : 'notice'"
        [placeholder]="prompt()"
        (keydown.escape)="escape($event)"
      />
    </div>
    @if (waits()) {
      <span class="waits">Enter searches</span>
    }
    @if (examples().length > 0 && strand().text === '') {
      <span class="examples">
        try
        @for (example of examples(); track example) {
          <button type="button" (click)="take(example)">{{ example }}</button>
        }
      </span>
    }
    @if (first() && !reading()) {
      <button type="button" class="plain add" title="Add a strand (Alt+Down)" (click)="added.emit()">+ strand</button>
    }
    @if (movable()) {
      <button type="button" class="plain" aria-label="Move this strand up" (click)="moved.emit(-1)">↑</button>
      <button type="button" class="plain" aria-label="Move this strand down" (click)="moved.emit(1)">↓</button>
    }
    <span class="count">
      @if (tally(); as line) {
        {{ line }}
      }
      <b>{{ count() }}</b> {{ noun() }}
    </span>
    @if (!reading()) {
      <select
        class="reading"
        aria-label="How this strand is read"
        [value]="strand().reading ?? 'words'"
        (change)="set({ reading: $any($event.target).value })"
      >
        <option value="words">Words</option>
        <option value="plain text">Plain text</option>
        <option value="wildcards">Wildcards</option>
        <option value="pattern">Pattern</option>
      </select>
    }
    @if (first()) {
      <button type="button" class="plain clear" [disabled]="strand().text === ''" (click)="clear()">Clear</button>
    } @else {
      <button type="button" class="plain clear" (click)="removed.emit()">Remove</button>
    }
  `,
  host: { '[class.first]': 'first()' },
  styles: `
    :host {
      display: flex;
      align-items: center;
      height: 38px;
      padding: 0 8px 0 16px;
      contain: layout paint;
    }
    :host(.first) {
      height: 48px;
    }
    .verb {
      width: 62px;
      color: var(--soft-ink);
    }
    select {
      appearance: none;
      border: 0;
      font: inherit;
      color: var(--soft-ink);
      cursor: pointer;
      padding: 4px 0;
      background: url("data:image/svg+xml,%3Csvg xmlns='http://www.w3.org/2000/svg' width='8' height='5'%3E%3Cpath d='M0 0h8L4 5z' fill='%23888378'/%3E%3C/svg%3E")
        no-repeat right 6px center;
    }
    select option {
      color: var(--ink);
      background: var(--leaf);
    }
    select:hover {
      color: var(--ink);
    }
    .reading {
      border-left: 1px solid var(--hairline);
      padding: 2px 12px;
      width: 100px;
    }
    .field {
      position: relative;
      flex: 1;
      min-width: 0;
      height: 100%;
      overflow: hidden;
      font-size: 15px;
      --line: 38px;
    }
    :host(.first) .field {
      font-size: 20px;
      --line: 48px;
    }
    .echo,
    input {
      position: absolute;
      inset: 0;
      padding: 0;
      line-height: var(--line);
      white-space: pre;
      letter-spacing: normal;
    }
    .echo {
      color: transparent;
      width: max-content;
      pointer-events: none;
    }
    .echo .mark {
      padding-block: 2px 4px;
    }
    input {
      width: 100%;
      border: 0;
      outline: 0;
      background: none;
      caret-color: var(--thread);
      z-index: 1;
    }
    input::placeholder {
      color: var(--soft-ink);
    }
    .waits {
      color: var(--thread);
      font-size: 13px;
      white-space: nowrap;
    }
    .examples {
      flex: 0 1 auto;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
      color: var(--soft-ink);
      font-size: 13px;
    }
    .examples button {
      padding: 2px 4px;
      border: 0;
      background: none;
      font-size: 13px;
      text-decoration: underline dotted var(--thread);
      text-underline-offset: 3px;
    }
    .count {
      margin-left: 16px;
      padding-right: 14px;
      color: var(--soft-ink);
      white-space: nowrap;
      font-variant-numeric: tabular-nums;
    }
    :host(.first) .count {
      min-width: 108px;
      text-align: right;
    }
    .count b {
      color: var(--ink);
    }
    .add {
      white-space: nowrap;
      margin-left: 8px;
    }
    .clear {
      border-left: 1px solid var(--hairline);
      border-radius: 0;
      padding-inline: 12px 8px;
      width: 76px;
    }
    .clear:disabled {
      color: transparent;
    }
    @media (max-width: 800px) {
      .examples {
        display: none;
      }
      :host(.first) .verb {
        position: absolute;
        width: 1px;
        overflow: hidden;
        clip-path: inset(50%);
      }
    }
    @media (max-width: 600px) {
      .reading,
      .add {
        display: none;
      }
      .count {
        margin-left: 6px;
        padding-right: 4px;
      }
      .clear {
        width: 60px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SearchBox {
  readonly strand = input.required<Strand>();
  readonly index = input(0);
  /** What is typed by now: newer than the strand as drawn, if a key came before the drawing. */
  readonly now = input.required<(index: number) => string>();
  /** The typed text, cut at its keywords. */
  readonly parts = input<readonly CellPart[]>([]);
  readonly rows = input<number | null | undefined>();
  /** What a further strand added or took away. */
  readonly tally = input('');
  readonly problem = input(false);
  readonly prompt = input('');
  /** Searches offered while nothing is typed. */
  readonly examples = input<readonly string[]>([]);
  readonly reading = input(false);
  readonly movable = input(false);
  /** True while what is typed waits for Enter. */
  readonly waits = input(false);
  readonly moved = output<-1 | 1>();
  readonly typed = output<string>();
  readonly changed = output<Partial<Strand>>();
  readonly removed = output<void>();
  readonly added = output<void>();
  readonly left = output<void>();

  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly scrolled = signal(0);

  protected readonly first = computed(() => this.index() === 0);
  protected readonly id = computed(() => (this.first() ? 'find' : `strand-${this.index()}`));
  protected readonly shift = computed(() => `translateX(${-this.scrolled()}px)`);
  protected readonly count = computed(() => {
    const rows = this.rows();
    return rows == null ? '' : rows === 0 && this.first() ? 'No' : counted(rows);
  });
  protected readonly noun = computed(() =>
    this.rows() == null || !this.first() ? '' : this.rows() === 1 ? 'row' : 'rows',
  );

  constructor() {
    // Not bound in the template, which knows only what it wrote last, not what was typed since.
    afterRenderEffect(() => {
      this.strand();
      const text = untracked(() => this.now()(this.index()));
      const field = this.field().nativeElement;
      if (field.value !== text) field.value = text;
    });
    // By hand: a listener of the template would have everything looked through at each key, before the rows are there.
    afterNextRender(() => {
      const field = this.field().nativeElement;
      field.addEventListener('input', () => this.typed.emit(field.value));
      // Keeps the tinted echo under the text.
      field.addEventListener('scroll', () => this.scrolled.set(field.scrollLeft));
    });
  }

  focus(): void {
    this.field().nativeElement.focus();
  }

  /** Selects what is typed too, so that the next key starts anew. */
  focusAll(): void {
    this.focus();
    this.field().nativeElement.select();
  }

  protected set(change: Partial<Strand>): void {
    this.changed.emit(change);
    this.focus();
  }

  protected take(example: string): void {
    this.write(example);
    this.focus();
  }

  /** Into the field at once, not only when it is drawn: the next key may come before. */
  private write(text: string): void {
    this.field().nativeElement.value = text;
    this.typed.emit(text);
  }

  protected clear(): void {
    this.write('');
    this.scrolled.set(0);
    this.field().nativeElement.focus();
  }

  /** Esc clears; Esc again leaves. */
  protected escape(event: Event): void {
    event.preventDefault();
    if (this.field().nativeElement.value !== '') this.clear();
    else {
      this.field().nativeElement.blur();
      this.left.emit();
    }
  }
}

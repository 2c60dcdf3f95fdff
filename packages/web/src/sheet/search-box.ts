import {
  ChangeDetectionStrategy, Component, computed, type ElementRef, input, output, signal, viewChild,
} from '@angular/core'; // prettier-ignore
import type { MarkTuple } from '@usual-needle/contract';
import { DEFAULT_SETTINGS, type NamedColumn, parse, type Reading, type Settings } from '@usual-needle/engine';
import type { Strand } from './box-change';
import { type CellPart, cellParts } from './cell-parts';

/** A text that fits the narrowest field. */
const SHORT = 24;

/** The typed text cut at its keywords, as the engine reads them. @param before keywords drawn by earlier strands */
function typedParts(
  text: string,
  settings: Settings,
  columns: readonly NamedColumn[],
  reading: Reading,
  before: number,
): CellPart[] {
  const marks = parse(text, settings, columns, reading)
    .keywords.filter(({ number }) => number > 0)
    .map(({ number, start, end }): MarkTuple => [0, start, end, before + number]);
  return cellParts(text, marks);
}

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
        [value]="strand().text"
        (input)="typed.emit(field.value); follow()"
        (keyup)="follow()"
        (keydown.escape)="escape($event)"
      />
    </div>
    @if (first()) {
      <button type="button" class="plain add" title="Add a strand (Alt+Down)" (click)="added.emit()">+ strand</button>
    }
    <span class="count">
      @if (tally(); as line) {
        {{ line }}
      }
      <b>{{ count() }}</b> {{ noun() }}
    </span>
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
    .count {
      margin-left: 16px;
      padding-right: 14px;
      color: var(--soft-ink);
      white-space: nowrap;
      font-variant-numeric: tabular-nums;
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
    @media (max-width: 600px) {
      .reading,
      .add,
      .verb {
        display: none;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SearchBox {
  readonly strand = input.required<Strand>();
  readonly index = input(0);
  readonly settings = input<Settings>(DEFAULT_SETTINGS);
  readonly columns = input<readonly NamedColumn[]>([]);
  /** Keywords drawn by the strands before. */
  readonly before = input(0);
  readonly rows = input<number | null | undefined>();
  /** What a further strand added or took away. */
  readonly tally = input('');
  readonly problem = input(false);
  readonly prompt = input('');
  readonly typed = output<string>();
  readonly changed = output<Partial<Strand>>();
  readonly removed = output<void>();
  readonly added = output<void>();
  readonly left = output<void>();

  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly scrolled = signal(0);

  protected readonly first = computed(() => this.index() === 0);
  protected readonly id = computed(() => (this.first() ? 'find' : `strand-${this.index()}`));
  protected readonly parts = computed(() => {
    const { text, reading = 'words', verb } = this.strand();
    return verb === 'minus' ? [] : typedParts(text, this.settings(), this.columns(), reading, this.before());
  });
  protected readonly shift = computed(() => `translateX(${-this.scrolled()}px)`);
  protected readonly count = computed(() => {
    const rows = this.rows();
    return rows == null ? '' : rows === 0 && this.first() ? 'No' : rows.toLocaleString();
  });
  protected readonly noun = computed(() =>
    this.rows() == null || !this.first() ? '' : this.rows() === 1 ? 'row' : 'rows',
  );

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

  /** Keeps the tinted echo under the text when the field scrolls sideways. */
  protected follow(): void {
    // Asking where a field is scrolled to lays the page out; a short text cannot have scrolled.
    if (this.strand().text.length < SHORT && this.scrolled() === 0) return;
    this.scrolled.set(this.field().nativeElement.scrollLeft);
  }

  protected clear(): void {
    this.typed.emit('');
    this.scrolled.set(0);
    this.field().nativeElement.focus();
  }

  /** Esc clears; Esc again leaves. */
  protected escape(event: Event): void {
    event.preventDefault();
    if (this.strand().text !== '') this.clear();
    else {
      this.field().nativeElement.blur();
      this.left.emit();
    }
  }
}

import {
  ChangeDetectionStrategy, Component, computed, type ElementRef, input, model, output, signal, viewChild,
} from '@angular/core'; // prettier-ignore
import type { MarkTuple } from '@usual-needle/contract';
import { DEFAULT_SETTINGS, parse, type Settings } from '@usual-needle/engine';
import { type CellPart, cellParts } from './cell-parts';

/** A text that fits the narrowest field. */
const SHORT = 24;

/** The typed text cut at its keywords, as the engine reads them. */
function typedParts(text: string, settings: Settings): CellPart[] {
  const marks = parse(text, settings)
    .keywords.filter(({ number }) => number > 0)
    .map(({ number, start, end }): MarkTuple => [0, start, end, number]);
  return cellParts(text, marks);
}

/** The box: what is typed, its keywords tinted and stitched as they are typed. */
@Component({
  selector: 'un-search-box',
  template: `
    <label class="verb" for="find">Find</label>
    <div class="field">
      <div class="echo" aria-hidden="true" [style.transform]="shift()">
        @for (part of parts(); track $index) {
          <span [class]="part.mark">{{ part.text }}</span>
        }
      </div>
      <input
        #field
        id="find"
        type="text"
        autocomplete="off"
        autocapitalize="off"
        spellcheck="false"
        maxlength="2000"
        aria-describedby="sentence count"
        [placeholder]="prompt()"
        [value]="text()"
        (input)="text.set(field.value); follow()"
        (scroll)="follow()"
        (keyup)="follow()"
        (keydown.escape)="escape($event)"
      />
    </div>
    <span class="count" id="count"
      ><b>{{ count() }}</b> {{ noun() }}</span
    >
    <button type="button" class="plain clear" [disabled]="text() === ''" (click)="clear()">Clear</button>
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      height: 50px;
      padding: 0 8px 0 16px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
    }
    :host:focus-within {
      border-color: var(--thread);
    }
    .verb {
      width: 62px;
      color: var(--soft-ink);
    }
    .field {
      position: relative;
      flex: 1;
      min-width: 0;
      height: 100%;
      overflow: hidden;
      font-size: 20px;
    }
    .echo,
    input {
      position: absolute;
      inset: 0;
      padding: 0;
      line-height: 48px;
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
    .clear {
      border-left: 1px solid var(--hairline);
      border-radius: 0;
      padding-inline: 14px 8px;
    }
    .clear:disabled {
      visibility: hidden;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SearchBox {
  readonly text = model.required<string>();
  readonly settings = input<Settings>(DEFAULT_SETTINGS);
  /** Rows on show; none while there is no answer yet. */
  readonly shown = input<number | null | undefined>();
  readonly prompt = input('');
  readonly left = output<void>();

  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly scrolled = signal(0);

  protected readonly parts = computed(() => typedParts(this.text(), this.settings()));
  protected readonly shift = computed(() => `translateX(${-this.scrolled()}px)`);
  protected readonly count = computed(() => {
    const shown = this.shown();
    return shown == null ? '' : shown === 0 ? 'No' : shown.toLocaleString();
  });
  protected readonly noun = computed(() => (this.shown() == null ? '' : this.shown() === 1 ? 'row' : 'rows'));

  focus(): void {
    this.field().nativeElement.focus();
    this.field().nativeElement.select();
  }

  /** Keeps the tinted echo under the text when the field scrolls sideways. */
  protected follow(): void {
    // Asking where a field is scrolled to lays the page out; a short text cannot have scrolled.
    if (this.text().length < SHORT && this.scrolled() === 0) return;
    this.scrolled.set(this.field().nativeElement.scrollLeft);
  }

  protected clear(): void {
    this.text.set('');
    this.scrolled.set(0);
    this.field().nativeElement.focus();
  }

  /** Esc clears; Esc again leaves. */
  protected escape(event: Event): void {
    event.preventDefault();
    if (this.text() !== '') this.clear();
    else {
      this.field().nativeElement.blur();
      this.left.emit();
    }
  }
}

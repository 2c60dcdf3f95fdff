import {
  afterNextRender,
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  inject,
  type ElementRef,
  input,
  output,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { BOX_DEFAULTS } from '@usual-needle/contract';
import { isComposing } from '../../common/composing';
import { type BoxStrand } from '../../common/question';
import { tooMuch } from '../../common/too-much';
import { Hint } from '../../look/hint';
import { Remarks } from '../../services/remarks';
import { counted } from '../../services/numbers';
import type { CellPart } from '../../common/cell-parts';

export const READINGS = {
  words: 'Words',
  'plain text': 'Plain text',
  wildcards: 'Wildcards',
  pattern: 'Pattern',
} as const;

/** A strand of the box: what is typed, its keywords tinted and stitched as they are typed. */
@Component({
  selector: 'un-search-box',
  imports: [Hint],
  templateUrl: './search-box.html',
  host: { '[class.first]': 'first()' },
  styleUrl: './search-box.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SearchBox {
  readonly strand = input.required<BoxStrand>();
  readonly index = input(0);
  /** The text that is typed by now: newer than the strand as drawn, if a key came before the drawing. */
  readonly now = input.required<(index: number) => string>();
  /** The typed text, cut at its keywords. */
  readonly parts = input<readonly CellPart[]>([]);
  readonly rows = input<number | null | undefined>();
  /** The words on what a further strand added or took away. */
  readonly tally = input('');
  readonly problem = input(false);
  readonly prompt = input('');
  /** Searches offered while nothing is typed. */
  readonly examples = input<readonly string[]>([]);
  readonly readersView = input(false);
  /** There can be no more strands. */
  readonly full = input(false);
  /** Where a further strand can be moved; undefined where there is nothing to move it past. */
  readonly movable = input<{ readonly up: boolean; readonly down: boolean } | undefined>();
  /** True while what is typed waits for Enter. */
  readonly waits = input(false);
  readonly moved = output<-1 | 1>();
  readonly typed = output<string>();
  /** Cleared, or an example taken: searched at once, whenever the box searches. */
  readonly put = output<string>();
  /** Asks for the choices of the verb or the reading, or for the crib. */
  readonly asks = output<{ readonly of: 'verb' | 'reading' | 'crib'; readonly event: Event }>();
  readonly removed = output<void>();
  readonly added = output<void>();
  readonly left = output<void>();

  private readonly remarks = inject(Remarks);
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly scrolled = signal(0);
  private composing = false;
  protected readonly readAs = computed(() => READINGS[this.strand().reading ?? BOX_DEFAULTS.reading]);

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
      if (field.value !== text && !this.composing) field.value = text;
    });
    // By hand: a listener of the template would have everything looked through at each key, before the rows are there.
    afterNextRender(() => {
      const field = this.field().nativeElement;
      // While an input method composes, nothing is asked.
      field.addEventListener('input', (event) => {
        if (!isComposing(event)) this.entered(field);
      });
      field.addEventListener('compositionend', () => this.entered(field));
      field.addEventListener('compositionstart', () => (this.composing = true));
      field.addEventListener('compositionend', () => (this.composing = false));
      // Keeps the tinted echo under the text.
      field.addEventListener('scroll', () => this.scrolled.set(field.scrollLeft));
    });
  }

  /** Takes what is typed or pasted, unless it is more than a box takes: then what was there before stays. */
  private entered(field: HTMLInputElement): void {
    const why = tooMuch(field.value);
    if (why === '') return this.typed.emit(field.value);
    field.value = this.now()(this.index());
    this.remarks.say(why);
  }

  focus(): void {
    this.field().nativeElement.focus();
  }

  /** Selects what is typed too, so that the next key starts anew. */
  focusAll(): void {
    this.focus();
    this.field().nativeElement.select();
  }

  protected take(example: string): void {
    this.write(example);
    this.focus();
  }

  /** Into the field at once, not only when it is drawn: the next key may come before. */
  private write(text: string): void {
    this.field().nativeElement.value = text;
    this.put.emit(text);
  }

  protected clear(): void {
    this.write('');
    this.scrolled.set(0);
    this.field().nativeElement.focus();
  }

  /** Esc clears; Esc again leaves. */
  protected escape(event: Event): void {
    if (this.composing || isComposing(event)) return;
    event.preventDefault();
    if (this.field().nativeElement.value !== '') this.clear();
    else {
      this.field().nativeElement.blur();
      this.left.emit();
    }
  }
}

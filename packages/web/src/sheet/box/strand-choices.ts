import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import { BOX_DEFAULTS } from '@usual-needle/contract';
import { Pop } from '../../look/pop';
import { SheetStore } from '../state/sheet-store';
import { READINGS } from './search-box';

const VERBS = [
  { value: 'plus', name: 'plus', says: 'adds the rows that have this' },
  { value: 'minus', name: 'minus', says: 'takes the rows away that have this' },
  { value: 'within', name: 'within', says: 'keeps only the rows that have this' },
] as const;
const READING_CHOICES = [
  { value: 'words', name: READINGS.words, says: 'words, phrases and signs' },
  { value: 'plain text', name: READINGS['plain text'], says: 'just what is typed; no sign means anything' },
  { value: 'wildcards', name: READINGS.wildcards, says: '? is one character, * any run' },
  { value: 'pattern', name: READINGS.pattern, says: 'a regular expression' },
] as const;

/** The choices of what a strand does and how it is read, opened where the strand says so. */
@Component({
  selector: 'un-strand-choices',
  imports: [Pop],
  template: `
    <un-pop #pop [label]="of() === 'verb' ? 'What this strand does' : 'How this strand is read'">
      <div class="choices" role="radiogroup">
        @for (choice of choices(); track choice.value) {
          <button
            type="button"
            role="radio"
            [attr.aria-checked]="choice.value === now()"
            (click)="choose(choice.value)"
          >
            {{ choice.name }} <small>{{ choice.says }}</small>
          </button>
        }
      </div>
    </un-pop>
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StrandChoices {
  private readonly store = inject(SheetStore);
  private readonly pop = viewChild.required(Pop);
  private readonly strand = signal(0);
  protected readonly of = signal<'verb' | 'reading'>('verb');
  protected readonly choices = computed(() => (this.of() === 'verb' ? VERBS : READING_CHOICES));
  protected readonly now = computed(() => {
    const strand = this.store.strands()[this.strand()];
    return this.of() === 'verb' ? strand?.verb : (strand?.reading ?? BOX_DEFAULTS.reading);
  });

  open(strand: number, of: 'verb' | 'reading', event: Event): void {
    this.strand.set(strand);
    this.of.set(of);
    this.pop().toggle(event);
  }

  protected choose(value: (typeof VERBS | typeof READING_CHOICES)[number]['value']): void {
    this.store.setStrand(this.strand(), { [this.of()]: value });
    this.pop().hide();
  }
}

import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import type { Action } from '@usual-needle/contract';
import { Pop } from '../../look/pop';
import { ColumnList } from './column-list';
import { CHOICES, type Choice, type Choosing, chosen, type Phrase, sentence } from '../../common/sentence';
import { SheetStore } from '../state/sheet-store';

/** The actions that readers need for phrases that can be left open to them. */
const NEEDS: Partial<Record<NonNullable<Phrase['sets']>, Action>> = {
  threaded: 'thread',
  need: 'change readings',
  where: 'change readings',
  care: 'change readings',
  effect: 'change the effect',
};

/** The sentence under the box. Its underlined phrases are the controls: each opens its choices where it stands. */
@Component({
  selector: 'un-sentence-line',
  imports: [ColumnList, Pop],
  template: `
    <button type="button" class="plain fold" [attr.aria-expanded]="unfolded()" (click)="unfolded.set(!unfolded())">
      {{ unfolded() ? 'Fold the sentence away' : 'How this box searches' }}
    </button>
    @if (store.readersView() && store.definition().wording?.help; as help) {
      <p class="help">{{ help }}</p>
    }
    <p id="sentence" [class.unfolded]="unfolded()">
      @for (phrase of phrases(); track $index) {
        @if (phrase.sets && canSet(phrase)) {
          <button
            type="button"
            class="phrase"
            aria-haspopup="dialog"
            [textContent]="phrase.text"
            (click)="open(phrase, $event)"
          ></button>
        } @else {
          <span>{{ phrase.text }}</span>
        }
      }
    </p>
    <un-pop #pop label="Choices of this phrase">
      @if (opened() === 'threaded') {
        <un-column-list of="threaded" />
      } @else if (opened() === 'columns') {
        <un-column-list of="shown" />
      } @else {
        <div class="choices" role="radiogroup" aria-label="Choices">
          @for (choice of choices(); track choice.text) {
            <button type="button" role="radio" [attr.aria-checked]="choice.text === current()" (click)="choose(choice)">
              {{ choice.text }}
            </button>
          }
        </div>
      }
    </un-pop>
  `,
  styles: `
    p {
      margin: 0 0 10px 52px;
      color: var(--soft-ink);
    }
    .fold {
      display: none;
      margin: 4px 0 0;
    }
    .help {
      margin-bottom: 2px;
      color: var(--ink);
    }
    @media (max-width: 800px), (max-height: 560px) {
      p {
        margin-left: 6px;
      }
      .help {
        margin-block: 2px 4px;
      }
      .fold {
        display: block;
      }
      #sentence:not(.unfolded) {
        display: none;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SentenceLine {
  protected readonly store = inject(SheetStore);

  /** Tells whether a phrase can be changed: by who builds the box; and by its readers, where it was left open to them. */
  protected canSet({ sets }: Phrase): boolean {
    if (!this.store.readersView()) return true;
    const needs = sets && NEEDS[sets];
    return needs !== undefined && this.store.readerMay() !== undefined && this.store.may(needs);
  }
  private readonly pop = viewChild.required(Pop);

  /** Whether the sentence is shown on a narrow screen, where it is folded away until asked for. */
  protected readonly unfolded = signal(false);
  protected readonly opened = signal<Phrase['sets']>(undefined);
  protected readonly phrases = computed(() =>
    sentence(this.store.definition(), this.store.table()?.columns.length ?? 0),
  );
  private readonly choosing = computed<Choosing | undefined>(() => {
    const sets = this.opened();
    return sets === 'threaded' || sets === 'columns' ? undefined : sets;
  });
  protected readonly choices = computed<readonly Choice[]>(() => {
    const sets = this.choosing();
    return sets ? CHOICES[sets] : [];
  });
  protected readonly current = computed(() => {
    const sets = this.choosing();
    return sets ? chosen(this.store.definition(), sets).text : '';
  });

  protected open({ sets }: Phrase, event: Event): void {
    this.opened.set(sets);
    this.pop().toggle(event);
  }

  protected choose({ change }: Choice): void {
    this.store.update(change);
    this.pop().hide();
  }
}

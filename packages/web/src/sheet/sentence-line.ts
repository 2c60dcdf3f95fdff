import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import { Popover } from 'primeng/popover';
import { ColumnList } from './column-list';
import { CHOICES, type Choice, type Choosing, chosen, type Phrase, sentence } from './sentence';
import { SheetStore } from './sheet-store';

/** The sentence under the box. Its underlined phrases are the controls: each opens its choices where it stands. */
@Component({
  selector: 'un-sentence-line',
  imports: [ColumnList, Popover],
  template: `
    <button type="button" class="plain fold" [attr.aria-expanded]="unfolded()" (click)="unfolded.set(!unfolded())">
      {{ unfolded() ? 'Fold the sentence away' : 'How this box searches' }}
    </button>
    @if (store.reading() && store.definition().wording?.help; as help) {
      <p class="help">{{ help }}</p>
    }
    <p id="sentence" [class.unfolded]="unfolded()">
      @for (phrase of phrases(); track $index) {
        @if (phrase.sets && !store.reading()) {
          <button type="button" aria-haspopup="dialog" (click)="open(phrase, $event)">{{ phrase.text }}</button>
        } @else {
          <span>{{ phrase.text }}</span>
        }
      }
    </p>
    <p-popover #popover [focusOnShow]="true" ariaLabel="Choices of this phrase">
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
    </p-popover>
  `,
  styles: `
    p {
      margin: 12px 0 10px 52px;
      color: var(--soft-ink);
    }
    .fold {
      display: none;
      margin: 4px 0 0;
    }
    .help {
      margin-block: 12px -8px;
      color: var(--ink);
    }
    @media (max-width: 800px) {
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
    p button {
      padding: 0;
      border: 0;
      background: none;
      color: var(--ink);
      font-weight: 600;
      text-align: left;
      text-decoration: underline dotted var(--thread);
      text-decoration-thickness: 2px;
      text-underline-offset: 4px;
    }
    p button:hover {
      color: var(--thread);
    }
    .choices {
      display: grid;
    }
    .choices button {
      padding: 6px 10px;
      border: 0;
      border-left: 3px solid transparent;
      background: none;
      text-align: left;
    }
    .choices button:hover {
      background: var(--header);
    }
    .choices [aria-checked='true'] {
      border-left-color: var(--thread);
      font-weight: 650;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SentenceLine {
  protected readonly store = inject(SheetStore);
  private readonly popover = viewChild.required(Popover);

  /** On a narrow screen the sentence is folded away until asked for. */
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
    this.popover().toggle(event);
  }

  protected choose({ change }: Choice): void {
    this.store.update(change);
    this.popover().hide();
  }
}

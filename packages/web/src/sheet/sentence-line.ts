import { ChangeDetectionStrategy, Component, computed, inject, signal, viewChild } from '@angular/core';
import { Popover } from 'primeng/popover';
import { CHOICES, type Choice, chosen, type Phrase, sentence } from './sentence';
import { SheetStore } from './sheet-store';

/** The sentence under the box. Its underlined phrases are the controls: each opens its choices where it stands. */
@Component({
  selector: 'un-sentence-line',
  imports: [Popover],
  template: `
    <p id="sentence">
      @for (phrase of phrases(); track $index) {
        @if (phrase.sets) {
          <button type="button" aria-haspopup="dialog" (click)="open(phrase, $event)">{{ phrase.text }}</button>
        } @else {
          <span>{{ phrase.text }}</span>
        }
      }
    </p>
    <p-popover #popover [focusOnShow]="true">
      @if (opened() === 'threaded') {
        <fieldset>
          <legend>Looks in</legend>
          @for (column of columns(); track column.name) {
            <label
              ><input type="checkbox" [checked]="column.threaded" (change)="store.toggleThread(column.name)" />{{
                column.name
              }}</label
            >
          }
        </fieldset>
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
    fieldset {
      display: grid;
      gap: 6px;
      max-height: 60vh;
      overflow: auto;
      margin: 0;
      padding: 0 8px 0 0;
      border: 0;
    }
    legend {
      padding: 0 0 6px;
      color: var(--soft-ink);
    }
    label {
      display: flex;
      gap: 8px;
    }
    input {
      accent-color: var(--thread);
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

  protected readonly opened = signal<Phrase['sets']>(undefined);
  protected readonly phrases = computed(() =>
    sentence(this.store.definition(), this.store.table()?.columns.length ?? 0),
  );
  protected readonly columns = computed(() => {
    const threaded = new Set(this.store.threaded());
    return (this.store.table()?.columns ?? []).map(({ name }) => ({ name, threaded: threaded.has(name) }));
  });
  protected readonly choices = computed<readonly Choice[]>(() => {
    const sets = this.opened();
    return sets === undefined || sets === 'threaded' ? [] : CHOICES[sets];
  });
  protected readonly current = computed(() => {
    const sets = this.opened();
    return sets === undefined || sets === 'threaded' ? '' : chosen(this.store.definition(), sets).text;
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

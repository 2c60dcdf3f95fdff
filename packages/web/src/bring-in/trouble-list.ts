import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { FileChoices } from '@usual-needle/contract';
import type { Look, Trouble } from '@usual-needle/formats';
import { troubleWords, type WayOut } from './words';

/** The list of what wants a look, in groups: how many there are, what is done about them, and the other ways. */
@Component({
  selector: 'un-trouble-list',
  template: `
    @for (one of groups(); track one.key) {
      <section>
        <p>
          @if (one.words.count) {
            <b>{{ one.words.count }}</b>
          }
          @if (one.words.column) {
            in <b>{{ one.words.column }}</b>
          }
          {{ one.words.says }} <span>{{ one.words.done }}</span>
        </p>
        @if (one.words.shows) {
          <button type="button" (click)="shown.emit(one.trouble)">
            Show {{ one.trouble.count === 1 ? 'it' : 'them' }}
          </button>
        }
        @for (way of one.words.ways; track way.words) {
          <button type="button" (click)="taken.emit(way)">{{ way.words }}</button>
        }
      </section>
    } @empty {
      <section>
        <p>
          <span>{{ look().done ? 'Nothing: every cell fits its column.' : 'Nothing so far.' }}</span>
        </p>
      </section>
    }
  `,
  styles: `
    section {
      padding: 14px 16px;
      border-top: 1px solid var(--faint);
    }
    span {
      color: var(--soft-ink);
    }
    button {
      margin: 6px 14px 0 0;
      padding: 0;
      border: 0;
      background: none;
      font-weight: 600;
      text-decoration: underline;
      text-decoration-thickness: 1px;
      text-underline-offset: 4px;
    }
    button:hover {
      color: var(--thread);
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TroubleList {
  readonly look = input.required<Look>();
  readonly choices = input.required<FileChoices>();
  readonly shown = output<Trouble>();
  readonly taken = output<WayOut>();

  protected readonly groups = computed(() =>
    this.look().troubles.map((trouble) => ({
      key: `${trouble.what} ${trouble.column}`,
      trouble,
      words: troubleWords(trouble, this.look(), this.choices()),
    })),
  );
}

import { ChangeDetectionStrategy, Component, computed, inject, viewChild } from '@angular/core';
import { Pop } from '../../look/pop';
import { initials, LONGEST_NAME, Person } from '../../services/person';
import { plural } from '../../services/numbers';
import { MyAccess } from '../../people/me';
import { Live } from './live';
import { InputText } from 'primeng/inputtext';

/** The most people that are told by their letters. */
const SHOWN = 3;

/** Shows who else has the table open, and by what name one is known to them. */
@Component({
  selector: 'un-here',
  imports: [InputText, Pop],
  template: `
    <button
      type="button"
      class="who"
      aria-haspopup="dialog"
      [attr.aria-label]="said()"
      [title]="said()"
      (click)="pop.toggle($event)"
    >
      @for (one of some(); track one.id) {
        <span class="badge" [class]="'t' + (($index % 3) + 1)" aria-hidden="true">{{ one.letters }}</span>
      }
      @if (more() > 0) {
        <span class="badge" aria-hidden="true">+{{ more() }}</span>
      }
      @if (live.otherCount() === 0) {
        <span class="alone" aria-hidden="true">{{ person.name() || 'Your name' }}</span>
      }
    </button>
    <un-pop #pop label="Who is here">
      @if (access.me()?.is === 'person') {
        <p>{{ said() }}</p>
      } @else {
        <form class="small-form" (submit)="$event.preventDefault(); call(name.value)">
          <p>{{ said() }}</p>
          <label>
            Your name, as others and the history have it
            <input
              #name
              pInputText
              class="entry"
              autofocus
              autocomplete="off"
              [attr.maxlength]="longest"
              [value]="person.name()"
            />
          </label>
          <button type="submit">Use it</button>
        </form>
      }
    </un-pop>
  `,
  styles: `
    /* Of one width, and filled from the right: whoever comes or goes moves nobody else. */
    :host {
      flex: none;
      width: 116px;
    }
    .who {
      display: flex;
      flex-direction: row-reverse;
      gap: 4px;
      width: 100%;
      padding: 3px 6px;
      border: 0;
      border-radius: 14px;
      background: none;
      color: var(--soft-ink);
      white-space: nowrap;
    }
    .badge {
      display: grid;
      place-items: center;
      min-width: 22px;
      height: 22px;
      padding: 0 4px;
      border-radius: 11px;
      background: var(--hairline);
      color: var(--ink);
      font-size: 11px;
      font-weight: 650;
    }
    .t1 {
      background: var(--tint-3);
    }
    .t2 {
      background: var(--tint-5);
    }
    .t3 {
      background: var(--tint-4);
    }
    .alone {
      max-width: 120px;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    form {
      width: 250px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Here {
  protected readonly live = inject(Live);
  protected readonly access = inject(MyAccess);
  protected readonly person = inject(Person);
  private readonly pop = viewChild.required<Pop>('pop');
  protected readonly longest = LONGEST_NAME;
  protected readonly some = computed(() =>
    this.live
      .others()
      .slice(0, SHOWN)
      .map(({ id, name }) => ({ id, letters: name === null ? '–' : initials(name) })),
  );
  protected readonly more = computed(() => this.live.otherCount() - this.some().length);
  protected readonly said = computed(() => {
    const count = this.live.otherCount();
    if (count <= 0) return 'Nobody else has this table open.';
    const named = this.live.others().flatMap(({ name }) => name ?? []);
    const rest = count - named.length;
    const unnamed = rest > 0 ? [named.length === 0 && rest === 1 ? 'someone' : plural(rest, 'other')] : [];
    const list = [...named, ...unnamed];
    return `Here too: ${list.length > 1 ? `${list.slice(0, -1).join(', ')} and ${list[list.length - 1]}` : list[0]}.`;
  });

  protected call(name: string): void {
    this.person.call(name);
    this.pop().hide();
  }
}

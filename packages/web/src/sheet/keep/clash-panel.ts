import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  type ElementRef,
  inject,
  input,
  output,
  viewChild,
} from '@angular/core';
import type { Clash } from '@usual-needle/contract';
import { ago } from '../../common/ago';
import { plural } from '../../services/numbers';
import { isWriting } from '../../look/take-focus';
import { Remarks } from '../../services/remarks';
import { giveCopy } from '../grid/give-copy';
import { type Clashing, Edits } from './edits';
import { Keeper } from './keeper';

/** Clashes that are shown one by one. */
const SHOWN = 4;

/** An edit that others were ahead of: what it was, what they made of it, and what one wrote oneself. Nothing is chosen in silence. */
@Component({
  selector: 'un-clash-panel',
  template: `
    <section role="dialog" aria-labelledby="clash-head" (keydown.escape)="later($event)">
      <h2 id="clash-head">{{ head() }}</h2>
      @for (clash of some(); track $index) {
        <p class="of">{{ of(clash) }}</p>
        <dl>
          @if (clash.column !== null) {
            <dt>it was</dt>
            <dd>{{ clash.was || 'blank' }}</dd>
            <dt>theirs</dt>
            <dd>
              <span>{{ clash.theirs === '' ? 'blank' : (clash.theirs ?? 'the row is removed') }}</span>
              @if (clash.at) {
                <span class="when"> · {{ when(clash.at) }}</span>
              }
            </dd>
            <dt>yours</dt>
            <dd class="yours">{{ clash.yours || 'blank' }}</dd>
          }
        </dl>
      }
      @for (text of texts(); track $index) {
        <p class="yours text">{{ text }}</p>
      }
      @if (more() > 0) {
        <p class="of">and {{ more() }} more</p>
      }
      <div class="ways">
        @if (texts().length > 0) {
          <button #first type="button" class="main" (click)="copy()">Copy it</button>
          @if (clashing().why) {
            <button type="button" (click)="edits.tryAgain(clashing()); settled.emit()">Try it again</button>
          }
          <button type="button" (click)="edits.letGo(clashing()); settled.emit()">Let it go</button>
        } @else if (!lost()) {
          <button #first type="button" class="main" (click)="edits.writeMine(clashing()); settled.emit()">
            {{ removing() ? 'Remove it all the same' : 'Write mine' }}
          </button>
        }
        @if (texts().length === 0) {
          <button type="button" (click)="edits.keepTheirs(clashing()); settled.emit()">
            {{ lost() ? 'Let it be' : removing() ? 'Keep it' : 'Keep theirs' }}
          </button>
        }
        @if (!removing() && !lost()) {
          <span>Esc leaves yours in the cell</span>
        }
      </div>
    </section>
  `,
  styles: `
    :host {
      z-index: 4;
      place-self: end;
      min-height: 0;
      max-width: calc(100% - 48px);
      max-height: calc(100% - 80px);
      margin: 0 32px 24px 24px;
    }
    section {
      width: 392px;
      max-width: 100%;
      max-height: 100%;
      overflow: auto;
      padding: 14px 16px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
      box-shadow: 0 10px 28px rgb(28 29 32 / 0.22);
    }
    h2 {
      font-size: 14px;
    }
    .of {
      margin-top: 10px;
      color: var(--soft-ink);
    }
    dl {
      display: grid;
      grid-template-columns: 100px 1fr;
      gap: 3px 0;
      margin: 2px 0 0;
    }
    dt,
    .when,
    .ways span {
      color: var(--soft-ink);
    }
    dd {
      margin: 0;
      overflow-wrap: anywhere;
    }
    dd span {
      white-space: pre-wrap;
    }
    .yours {
      font-weight: 650;
    }
    .text {
      max-height: 160px;
      overflow: auto;
      margin-top: 8px;
      white-space: pre-wrap;
      overflow-wrap: anywhere;
    }
    .ways {
      display: flex;
      align-items: center;
      gap: 8px;
      margin-top: 14px;
    }
    .ways button {
      padding: 7px 14px;
      border: 1px solid var(--hairline);
      border-radius: 6px;
      background: var(--leaf);
      font-weight: 600;
      white-space: nowrap;
    }
    .ways .main {
      background: var(--ink);
      border-color: var(--ink);
      color: var(--leaf);
    }
    .ways span {
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClashPanel {
  protected readonly edits = inject(Edits);
  private readonly keeper = inject(Keeper);
  private readonly remarks = inject(Remarks);
  readonly clashing = input.required<Clashing>();
  /** A way was chosen. */
  readonly settled = output<void>();
  /** Said where the clash is left for later. */
  readonly left = output<void>();
  private readonly first = viewChild<ElementRef<HTMLElement>>('first');

  protected readonly some = computed(() => this.clashing().clashes.slice(0, SHOWN));
  protected readonly more = computed(() => this.clashing().count - this.some().length);
  /** True where the edit was about removing rows. */
  protected readonly removing = computed(() => (this.clashing().request.removed ?? []).length > 0);
  /** Nothing can be written any more: the rows have gone. */
  protected readonly lost = computed(() => this.clashing().clashes.every(({ theirs }) => theirs === null));
  /** The texts typed for rows or columns that have gone: to be copied, since it can be written nowhere. */
  protected readonly texts = computed(() => {
    const { request } = this.clashing();
    if (!this.lost()) return [];
    const cells = [...(request.changed ?? []).map(({ now }) => now), ...(request.added ?? [])].flat();
    return cells.flatMap((text) => text || []);
  });
  protected readonly head = computed(() => {
    const { clashes, count, why, said } = this.clashing();
    if (why !== undefined) return `${said} was not written. ${why}`;
    const who = clashes[0].who ?? 'Someone';
    if (this.lost())
      return `${count === 1 ? 'This row was' : `${plural(count, 'row')} were`} removed while you were typing.`;
    if (this.removing()) return `${who} changed ${count === 1 ? 'this row' : plural(count, 'row')} since you saw it.`;
    return `${who} changed ${count === 1 ? 'this cell' : plural(count, 'cell')} while you were typing.`;
  });

  constructor() {
    afterNextRender(() => {
      // Whoever is typing goes on typing; anybody else is led here.
      if (!isWriting()) this.first()?.nativeElement.focus();
    });
  }

  protected copy(): void {
    if (!giveCopy(this.texts().join('\n'))) this.remarks.say('The browser did not let it be copied.');
    else this.remarks.say('It is copied.');
  }

  protected of({ id, column }: Clash): string {
    const called = this.keeper.called(id);
    return column === null ? called : `${column} of ${called}`;
  }

  protected when(at: string): string {
    return ago(at);
  }

  protected later(event: Event): void {
    event.preventDefault();
    event.stopPropagation();
    this.left.emit();
  }
}

import { ChangeDetectionStrategy, Component, computed, inject, input, output, signal, viewChild } from '@angular/core';
import { RouterLink } from '@angular/router';
import type { SourceRunTold, SourceTold } from '@usual-needle/contract';
import type { Observable } from 'rxjs';
import { errorWords } from '../common/error-words';
import { Pop } from '../look/pop';
import { Api } from '../services/api';
import { countsWords, lastWords, momentWords, sourceSentence, streakWords } from '../sources/source-words';

/** The sentence of a table that refreshes itself, what became of it, and what it waits for. */
@Component({
  selector: 'un-source-line',
  imports: [Pop, RouterLink],
  template: `
    <p>
      @for (phrase of phrases(); track $index) {
        @if (phrase.sets) {
          <a class="phrase" [routerLink]="['/source', told().table]">{{ phrase.text }}</a>
        } @else {
          <span>{{ phrase.text }}</span>
        }
      }
      <span> {{ last() }} </span>
      @if (told().last) {
        <button type="button" class="like-link" aria-haspopup="dialog" (click)="openRuns($event)">
          {{ told().inARow > 0 ? streak() : 'Its runs' }}
        </button>
        @if (told().inARow > 0) {
          <span> without a miss.</span>
        }
      }
    </p>
    @if (told().waiting; as waiting) {
      <p class="waits" role="status">
        <b>Waits for you</b> since {{ moment(waiting.since) }}: {{ waiting.why }}.
        <a class="like-link" [routerLink]="['/source', told().table]" [queryParams]="{ look: '' }">Look at it</a>
        <button type="button" class="like-link" [disabled]="busy()" (click)="does(api.runSource(told().table, true))">
          Do it
        </button>
        <button type="button" class="like-link" [disabled]="busy()" (click)="does(api.leaveSource(told().table))">
          Leave it, and go on
        </button>
      </p>
    }
    @if (problem(); as message) {
      <p role="alert">{{ message }}</p>
    }
    <un-pop label="Its runs" otherwise="#everywhere">
      @if (runs(); as list) {
        <ol class="runs">
          @for (run of list; track run.due) {
            <li>
              <span>{{ moment(run.at) }}</span> <span>{{ words(run) }}</span>
            </li>
          } @empty {
            <li>There was none yet.</li>
          }
        </ol>
      } @else {
        <p class="runs">{{ problem() || 'Fetching its runs …' }}</p>
      }
    </un-pop>
  `,
  styles: `
    p {
      margin: -2px 0 8px;
      color: var(--soft-ink);
    }
    .phrase {
      color: var(--ink);
      font-weight: 650;
      text-decoration: underline dotted var(--thread);
      text-decoration-thickness: 2px;
      text-underline-offset: 4px;
    }
    .waits {
      padding: 10px 14px;
      border: 1px solid var(--stitch-4);
      border-radius: 8px;
      background: var(--tint-4);
      color: var(--ink);
    }
    .waits .like-link {
      margin-right: 8px;
    }
    .runs {
      margin: 0;
      padding: 6px 12px;
      max-height: 320px;
      overflow: auto;
      list-style: none;
    }
    .runs li {
      display: grid;
      grid-template-columns: 130px minmax(0, 320px);
      gap: 10px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SourceLine {
  readonly told = input.required<SourceTold>();
  /** Something was done of it. */
  readonly changed = output();

  protected readonly api = inject(Api);
  private readonly pop = viewChild.required(Pop);
  protected readonly busy = signal(false);
  protected readonly problem = signal('');
  protected readonly runs = signal<readonly SourceRunTold[] | undefined>(undefined);
  protected readonly phrases = computed(() => sourceSentence(this.told().source));
  protected readonly last = computed(() => lastWords(this.told()));
  protected readonly streak = computed(() => streakWords(this.told()));
  protected readonly moment = momentWords;

  protected words({ outcome, counts, why, who }: SourceRunTold): string {
    const by = who === null ? '' : `, asked for by ${who}`;
    if (outcome === 'done') return `${countsWords(counts!)}${by}`;
    if (outcome === 'same') return `nothing new${by}`;
    return `${outcome}: ${why ?? ''}${by}`;
  }

  protected openRuns(event: Event): void {
    this.runs.set(undefined);
    this.problem.set('');
    this.pop().toggle(event);
    this.api.sourceRuns(this.told().table).subscribe({
      next: ({ runs }) => this.runs.set(runs),
      error: (error: unknown) => this.problem.set(errorWords(error)),
    });
  }

  protected does(asked: Observable<SourceTold>): void {
    this.busy.set(true);
    this.problem.set('');
    asked.subscribe({
      next: ({ last }) => {
        this.busy.set(false);
        if (last?.outcome === 'failed') this.problem.set(`It failed: ${last.why ?? ''}.`);
        this.changed.emit();
      },
      error: (error: unknown) => {
        this.busy.set(false);
        this.problem.set(errorWords(error));
      },
    });
  }
}

import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Router, RouterLink } from '@angular/router';
import type { Shelf as ShelfContent } from '@usual-needle/contract';
import { timer } from 'rxjs';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Logo } from '../look/logo';
import { counted } from '../services/numbers';
import { Api } from '../services/api';
import { patiently } from '../services/latest';
import { sentence } from '../sheet/sentence';
import { messageOf } from '../sheet/answers';

/** The shelf: each table is a band, below it its boxes, each as its sentence with a small box to type into. */
@Component({
  selector: 'un-shelf',
  imports: [DatePipe, Logo, RouterLink],
  template: `
    <header><un-logo /><b>Usual Needle</b></header>
    <main>
      <h1>Shelf</h1>
      @if (error(); as message) {
        <p role="alert" class="say">{{ message }} <button type="button" (click)="load()">Try again</button></p>
      } @else if (bands(); as list) {
        @for (band of list; track band.table.id) {
          <section [attr.aria-label]="band.table.name">
            <div class="band">
              <h2>{{ band.table.name }}</h2>
              <span>{{ band.rows }} rows</span>
              <span>{{ band.table.columns.length }} columns</span>
              <span>changed {{ band.table.changedAt | date: 'd MMM y, HH:mm' }}</span>
              <a [routerLink]="['/table', band.table.id]">New box</a>
            </div>
            @for (box of band.boxes; track box.id) {
              <div class="box">
                <a class="name" [routerLink]="['/box', box.id]">{{ box.name }}</a>
                <p>{{ box.sentence }}</p>
                <form (submit)="open($event, box.id, field.value)">
                  <input
                    #field
                    type="text"
                    autocomplete="off"
                    [placeholder]="box.prompt"
                    [attr.aria-label]="'Search with ' + box.name"
                  />
                </form>
              </div>
            } @empty {
              <p class="none">No box on this table yet.</p>
            }
          </section>
        } @empty {
          <p class="say">There is no table yet. Start without <code>--no-demo</code> to see the example.</p>
        }
      } @else if (waiting()) {
        <p class="say">Fetching the shelf …</p>
      }
    </main>
  `,
  styles: `
    header {
      display: flex;
      align-items: center;
      gap: 8px;
      height: 44px;
      padding: 0 20px;
    }
    main {
      max-width: 1120px;
      margin: 20px auto 60px;
      padding: 0 20px;
    }
    h1 {
      font-size: 24px;
      margin-bottom: 16px;
    }
    section {
      margin-bottom: 26px;
    }
    .band {
      display: flex;
      flex-wrap: wrap;
      align-items: baseline;
      gap: 4px 20px;
      padding: 10px 0 8px;
      border-top: 2px solid var(--thread);
      color: var(--soft-ink);
      font-variant-numeric: tabular-nums;
    }
    .band a {
      margin-left: auto;
      color: var(--ink);
    }
    h2 {
      font-size: 17px;
      color: var(--ink);
    }
    .box {
      display: grid;
      grid-template-columns: 190px 1fr 260px;
      gap: 6px 20px;
      align-items: center;
      padding: 10px 16px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-top-width: 0;
    }
    .band + .box {
      border-top-width: 1px;
      border-radius: 10px 10px 0 0;
    }
    .box:last-child {
      border-radius: 0 0 10px 10px;
    }
    .band + .box:last-child {
      border-radius: 10px;
    }
    .name {
      font-weight: 650;
    }
    .box p,
    .none,
    .say {
      color: var(--soft-ink);
    }
    .none {
      padding: 6px 0;
    }
    input {
      width: 100%;
      padding: 6px 10px;
      background: var(--paper);
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    input::placeholder {
      color: var(--soft-ink);
    }
    @media (max-width: 800px) {
      .box {
        grid-template-columns: 1fr;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Shelf {
  private readonly api = inject(Api);
  private readonly router = inject(Router);
  private readonly content = signal<ShelfContent | undefined>(undefined);
  protected readonly error = signal<string | undefined>(undefined);
  protected readonly waiting = signal(false);

  protected readonly bands = computed(() => {
    const content = this.content();
    return content?.tables.map((table) => ({
      table,
      rows: counted(table.rows),
      boxes: content.boxes
        .filter(({ tableId }) => tableId === table.id)
        .map(({ id, name, box }) => ({
          id,
          name,
          prompt: box.wording?.prompt ?? 'Type a bit of what you know',
          sentence: sentence(box, table.columns.length)
            .map(({ text }) => text)
            .join(''),
        })),
    }));
  });

  constructor() {
    timer(150)
      .pipe(takeUntilDestroyed())
      .subscribe(() => this.waiting.set(true));
    this.load();
  }

  protected load(): void {
    this.error.set(undefined);
    this.api
      .shelf()
      .pipe(patiently())
      .subscribe({
        next: (content) => this.content.set(content),
        error: (error: unknown) => this.error.set(messageOf(error)),
      });
  }

  protected open(event: Event, boxId: number, text: string): void {
    event.preventDefault();
    void this.router.navigate(['/box', boxId], { queryParams: text === '' ? {} : { q: text } });
  }
}

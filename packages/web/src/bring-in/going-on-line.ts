import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { NavigationEnd, Router } from '@angular/router';
import { filter, map } from 'rxjs';
import { GoingOn } from './going-on';
import { progressWords } from './progress-words';

/** Says on every other screen how far a file is that is being brought in, and what has come of it. */
@Component({
  selector: 'un-going-on',
  template: `
    @if (isElsewhere()) {
      @if (words(); as says) {
        <p role="status">
          <span
            >{{ going.sending()?.table ? 'Refreshing' : 'Bringing in' }} {{ going.sending()?.name }}: {{ says }}</span
          >
          <button type="button" (click)="going.stop()">Stop</button>
        </p>
      } @else if (going.sent(); as sent) {
        <p role="status">
          <span>{{ sent.of.name }} is {{ sent.of.table ? 'refreshed' : 'brought in' }}.</span>
          <button type="button" (click)="open(sent.of.table?.id ?? sent.done.id)">Open it</button>
          <button type="button" (click)="going.seen()">Close</button>
        </p>
      } @else if (going.failed(); as why) {
        <p role="alert">
          <span>{{ going.sending()?.name }} was not brought in. {{ why }}</span>
          <button type="button" (click)="back()">Back to it</button>
          <button type="button" (click)="going.seen()">Close</button>
        </p>
      }
    }
  `,
  styles: `
    p {
      position: fixed;
      right: 16px;
      bottom: 44px;
      z-index: 19;
      display: flex;
      align-items: center;
      gap: 10px;
      max-width: min(560px, calc(100vw - 32px));
      margin: 0;
      padding: 8px 12px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 10px;
      box-shadow: 0 6px 18px rgb(28 29 32 / 0.18);
      font-variant-numeric: tabular-nums;
    }
    button {
      padding: 3px 6px;
      border: 0;
      background: none;
      color: var(--ink);
      text-decoration: underline;
      text-underline-offset: 3px;
      white-space: nowrap;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class GoingOnLine {
  protected readonly going = inject(GoingOn);
  private readonly router = inject(Router);
  private readonly address = toSignal(
    this.router.events.pipe(
      filter((event) => event instanceof NavigationEnd),
      map(() => this.router.url),
    ),
    { initialValue: this.router.url },
  );
  protected readonly isElsewhere = computed(() => !/^\/(?:bring-in|refresh)\b/.test(this.address()));
  protected readonly words = computed(() => {
    const progress = this.going.progress();
    return progress && progressWords(progress, this.going.sending()?.rows ?? 0).says;
  });

  protected open(table: number): void {
    this.going.seen();
    void this.router.navigate(['/table', table]);
  }

  protected back(): void {
    const { table } = this.going.sending() ?? {};
    void this.router.navigate(table ? ['/refresh', table.id] : ['/bring-in']);
  }
}

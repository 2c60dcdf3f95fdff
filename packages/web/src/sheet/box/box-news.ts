import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { listed } from '../../common/sentence';
import { BoxSaving } from '../state/box-saving';
import { SheetStore } from '../state/sheet-store';

/** The news of the box, and of its columns, from elsewhere while it is open, and to the columns that it names: said until it is settled. */
@Component({
  selector: 'un-box-news',
  template: `
    @if (boxSaving.newer(); as newer) {
      <p role="status">
        <span
          >{{ newer.who ?? 'Someone' }} {{ newer.deleted ? 'deleted this box' : 'changed and saved this box' }}.</span
        >
        @if (newer.deleted) {
          <span>Yours is still here: Save keeps it as a new box.</span>
        } @else {
          <button type="button" class="plain" (click)="boxSaving.takeOver()">Take it over</button>
          @if (store.unsaved() && !store.readersView()) {
            <button type="button" class="plain" (click)="boxSaving.saveOver()">Save it over theirs</button>
          }
        }
      </p>
    }
    @if (lacking(); as words) {
      <p role="status">{{ words }}</p>
    }
  `,
  styles: `
    p {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 2px 10px;
      margin: 0 0 6px;
      padding: 4px 12px;
      background: var(--tint-4);
      border-radius: 6px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class BoxNewsLine {
  protected readonly boxSaving = inject(BoxSaving);
  protected readonly store = inject(SheetStore);
  protected readonly lacking = computed(() => {
    const names = this.store.lacking();
    if (names.length === 0) return '';
    return `${listed(names)}, which the box names, ${names.length === 1 ? 'is' : 'are'} not there any more.`;
  });
}

import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { SearchAnswer } from '@usual-needle/contract';
import { stitchOf } from './cell-parts';
import { listed } from './sentence';

/** No rows: the box's own message first, then what was typed and where it was looked for. */
@Component({
  selector: 'un-nothing-found',
  template: `
    <h2>{{ message() }}</h2>
    <p>Looked for</p>
    <ul>
      @for (keyword of keywords(); track keyword.number) {
        <li>
          <span [class]="keyword.stitch">{{ keyword.text }}</span>
        </li>
      }
    </ul>
    <p>{{ where() }}</p>
    <button type="button" (click)="clear.emit()">Clear the box</button>
  `,
  styles: `
    :host {
      display: block;
      padding: 42px 20px 20px 150px;
      background: var(--leaf);
    }
    h2 {
      font-size: 20px;
      margin-bottom: 8px;
      text-wrap: balance;
    }
    p {
      color: var(--soft-ink);
    }
    ul {
      list-style: none;
      margin: 12px 0;
      padding: 0;
      max-width: 860px;
      font-size: 16px;
      overflow-wrap: anywhere;
    }
    li {
      display: inline-block;
      margin: 0 10px 8px 0;
    }
    button {
      margin-top: 18px;
      padding: 6px 12px;
      background: var(--leaf);
      border: 1px solid var(--hairline);
      border-radius: 6px;
    }
    button:hover {
      border-color: var(--thread);
    }
    @media (max-width: 900px) {
      :host {
        padding-left: 24px;
      }
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NothingFound {
  readonly message = input.required<string>();
  readonly answer = input.required<SearchAnswer>();
  readonly text = input.required<string>();
  readonly threaded = input.required<readonly string[]>();
  readonly clear = output<void>();

  protected readonly keywords = computed(() =>
    this.answer().keywords.map(({ text, number }) => ({ text, number, stitch: number > 0 ? stitchOf(number) : '' })),
  );
  protected readonly where = computed(() => {
    const total = this.answer().total.toLocaleString();
    const threaded = this.threaded();
    if (threaded.length === 0) return `No column is threaded, so nothing was searched. Click an eyelet in the header.`;
    return `in ${listed(threaded)} of all ${total} rows.`;
  });
}

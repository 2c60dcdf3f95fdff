import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { Remarks } from '../services/remarks';

/** Shows what is remarked on what was just done, at the foot of the screen, with the way back. */
@Component({
  selector: 'un-remark-line',
  template: `
    <div class="remark" role="status">
      @if (remarks.current(); as remark) {
        <p>
          {{ remark.text }}
          @if (remark.action; as action) {
            <button type="button" (click)="remarks.act()">{{ action.name }}</button>
          }
          <button type="button" (click)="remarks.dismiss()">Close</button>
        </p>
      }
    </div>
  `,
  styles: `
    .remark {
      position: fixed;
      left: 50%;
      bottom: 48px;
      transform: translateX(-50%);
      z-index: 20;
    }
    .remark p {
      padding: 9px 10px 9px 18px;
      background: var(--ink);
      color: var(--leaf);
      border-radius: 10px;
      white-space: nowrap;
    }
    button {
      padding: 3px 8px;
      border: 0;
      background: none;
      color: inherit;
      text-decoration: underline;
      text-underline-offset: 3px;
    }
    button:focus-visible {
      outline-color: var(--leaf);
      outline-offset: -2px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class RemarkLine {
  protected readonly remarks = inject(Remarks);
}

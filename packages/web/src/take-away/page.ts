import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { Remarks } from '../services/remarks';
import { Sheet } from '../sheet/sheet';
import { TAKEN_AWAY } from './taken-away';

/** A take-away page: the sheet of its one box, and what is remarked. */
@Component({
  selector: 'un-app',
  imports: [Sheet],
  template: `
    <un-sheet [reader]="true" [slug]="slug" />
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
    }
    button {
      padding: 3px 8px;
      border: 0;
      background: none;
      color: inherit;
      text-decoration: underline;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TakeAwayPage {
  protected readonly remarks = inject(Remarks);
  protected readonly slug = inject(TAKEN_AWAY)!.id;
}

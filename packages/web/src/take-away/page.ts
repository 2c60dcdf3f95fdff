import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RemarkLine } from '../look/remark-line';
import { Sheet } from '../sheet/sheet';
import { TAKEN_AWAY } from './taken-away';

/** A take-away page: the sheet of its one box, and what is remarked. */
@Component({
  selector: 'un-app',
  imports: [RemarkLine, Sheet],
  template: `
    <un-sheet [reader]="true" [slug]="slug" />
    <un-remark-line />
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TakeAwayPage {
  protected readonly slug = inject(TAKEN_AWAY)!.id;
}

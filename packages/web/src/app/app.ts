import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { GoingOnLine } from '../bring-in/going-on-line';
import { MyAccess } from '../people/me';
import { KeptFocus } from '../services/kept-focus';
import { Remarks } from '../services/remarks';

@Component({
  selector: 'un-app',
  imports: [GoingOnLine, RouterOutlet],
  template: `
    @if (access.me()?.open) {
      <aside class="open" aria-label="About this server">
        This server is open: everybody who reaches it may see, change and delete everything.
      </aside>
    }
    @if (access.asMadeUp(); as one) {
      <aside class="as" aria-label="As whom you see it">
        <a [href]="own">Be yourself again</a>: you see it as <b>{{ one.name }}</b>, who {{ one.does }}, one of the
        demo’s made-up people.
      </aside>
    }
    <router-outlet />
    <un-going-on />
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
    :host:has(aside) {
      --above: 28px;
      display: block;
    }
    aside {
      height: 28px;
      padding: 4px 20px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .open {
      background: var(--thread);
      color: var(--leaf);
    }
    .as {
      background: var(--header);
    }
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
export class App {
  protected readonly remarks = inject(Remarks);
  protected readonly access = inject(MyAccess);
  /** The address by which one is oneself on this machine. */
  protected readonly own = `${location.protocol}//localhost:${location.port}/`;

  constructor() {
    inject(KeptFocus);
    this.access.load();
  }
}

import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { GoingOnLine } from '../bring-in/going-on-line';
import { RemarkLine } from '../look/remark-line';
import { MyAccess } from '../people/me';
import { KeptFocus } from '../services/kept-focus';

@Component({
  selector: 'un-app',
  imports: [GoingOnLine, RemarkLine, RouterOutlet],
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
    <un-remark-line />
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
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class App {
  protected readonly access = inject(MyAccess);
  /** The address by which one is oneself on this machine. */
  protected readonly own = `${location.protocol}//localhost:${location.port}/`;

  constructor() {
    inject(KeptFocus);
    this.access.load();
  }
}

import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { RouterLink } from '@angular/router';
import { Logo } from '../look/logo';
import { MyAccess } from './me';

/** The head of a page about access: the way to the shelf, where one is, who one is, and signing out. */
@Component({
  selector: 'un-page-head',
  imports: [Logo, RouterLink],
  template: `
    <header>
      <a class="home" routerLink="/" aria-label="Usual Needle: to the shelf"><un-logo /><b>Usual Needle</b></a>
      @for (crumb of crumbs(); track crumb) {
        <span class="crumb">{{ crumb }} /</span>
      }
      <h1 tabindex="-1" data-focus-home>{{ title() }}</h1>
      <span class="actions">
        <ng-content />
        @if (access.isSignedIn()) {
          <a class="name" routerLink="/you" title="Your password, and tokens for programs"
            ><bdi>{{ access.me()?.name }}</bdi></a
          >
          <button type="button" class="plain" (click)="access.signOut()">Sign out</button>
        }
      </span>
    </header>
  `,
  styleUrl: './page.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PageHead {
  protected readonly access = inject(MyAccess);
  readonly title = input.required<string>();
  readonly crumbs = input<readonly string[]>([]);
}

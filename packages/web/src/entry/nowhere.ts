import { ChangeDetectionStrategy, Component } from '@angular/core';
import { RouterLink } from '@angular/router';

/** The page at an address that leads nowhere. */
@Component({
  selector: 'un-nowhere',
  imports: [RouterLink],
  template: `
    <main>
      <h1>There is nothing at this address.</h1>
      <p>The box may have been deleted, or the link cut short. <a routerLink="/">Go to the shelf</a></p>
    </main>
  `,
  styles: `
    main {
      max-width: 640px;
      margin: 96px auto;
      padding: 0 20px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Nowhere {}

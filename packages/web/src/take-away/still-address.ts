import { LocationStrategy } from '@angular/common';

/** An address that stays what it is on the outside: that of a file cannot be changed everywhere. What would be in it is kept here. */
export class StillAddress extends LocationStrategy {
  private now: string;

  constructor(private readonly first: string) {
    super();
    this.now = first;
  }

  override path(): string {
    return this.now;
  }
  override prepareExternalUrl(internal: string): string {
    return internal;
  }
  override getState(): unknown {
    return null;
  }
  override pushState(_state: unknown, _title: string, url: string, query: string): void {
    this.now = `${url}${query && !query.startsWith('?') ? '?' : ''}${query}`;
  }
  override replaceState(state: unknown, title: string, url: string, query: string): void {
    this.pushState(state, title, url, query);
  }
  override forward(): void {
    // There is nowhere to go.
  }
  override back(): void {
    this.now = this.first;
  }
  override onPopState(): void {
    // Nobody goes back in it.
  }
  override getBaseHref(): string {
    return '';
  }
}

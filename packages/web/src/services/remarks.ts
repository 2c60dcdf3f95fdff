import { Injectable, signal } from '@angular/core';

export interface Remark {
  readonly text: string;
  /** The button beside it, if there is one. */
  readonly action?: { readonly name: string; readonly does: () => void };
}

const STAYS_MS = 8_000;

/** Remarks on what was just done, shown for a while at the foot of the screen, with the way back. */
@Injectable({ providedIn: 'root' })
export class Remarks {
  readonly current = signal<Remark | undefined>(undefined);
  private timer: ReturnType<typeof setTimeout> | undefined;

  say(text: string, action?: Remark['action']): void {
    clearTimeout(this.timer);
    this.current.set({ text, action });
    this.timer = setTimeout(() => this.current.set(undefined), STAYS_MS);
  }

  act(): void {
    const { action } = this.current() ?? {};
    this.dismiss();
    action?.does();
  }

  dismiss(): void {
    clearTimeout(this.timer);
    this.current.set(undefined);
  }
}

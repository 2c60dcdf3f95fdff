import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import type { FileChoices } from '@usual-needle/contract';
import type { Look, LookRow, Showing } from '@usual-needle/formats';
import type { LookAsked, LookSaid, Tried } from './messages';

/** The worker that looks through a file, and what it said last. */
@Injectable()
export class Looking {
  readonly look = signal<Look | undefined>(undefined);
  readonly rows = signal<readonly LookRow[]>([]);
  readonly showing = signal<Showing>('first');
  readonly tried = signal<Tried | undefined>(undefined);
  readonly failed = signal('');
  private readonly turn = signal(0);
  private readonly turnShown = signal(0);
  /** The preview is of the choices as they are, and every row has been looked at. */
  readonly settled = computed(() => this.turn() === this.turnShown() && this.look()?.done === true);
  private trying = '';
  private readonly worker = new Worker(new URL('./look.worker', import.meta.url), { type: 'module' });

  constructor() {
    this.worker.onmessage = ({ data }: MessageEvent<LookSaid>) => this.hear(data);
    this.worker.onerror = (event) => {
      event.preventDefault();
      this.failed.set('The file cannot be read here: it may be too large for this browser, or have been moved.');
    };
    inject(DestroyRef).onDestroy(() => this.worker.terminate());
  }

  /** Reads a file, or follows what was chosen for it. */
  lookAt(file: File, choices: FileChoices): void {
    this.failed.set('');
    this.turn.update((turn) => turn + 1);
    this.ask({ do: 'look', file, name: file.name, choices, turn: this.turn() });
  }

  show(showing: Showing): void {
    this.ask({ do: 'show', showing });
  }

  /** Tries a box on the first rows; with nothing typed there is none. */
  tryBox(text: string): void {
    this.trying = text;
    if (text.trim() === '') this.tried.set(undefined);
    else this.ask({ do: 'try', text });
  }

  private ask(asked: LookAsked): void {
    this.worker.postMessage(asked);
  }

  private hear(said: LookSaid): void {
    if (said.is === 'failed') {
      this.failed.set(said.message);
      this.look.set(undefined);
    } else if (said.is === 'tried') {
      // An answer to an older text may come last.
      if (said.tried.text === this.trying) this.tried.set(said.tried);
    } else {
      this.turnShown.set(said.turn);
      this.look.set(said.look);
      this.rows.set(said.rows);
      this.showing.set(said.showing);
    }
  }
}

import { computed, inject, Injectable, signal } from '@angular/core';
import type { TableSummary } from '@usual-needle/contract';
import { Subject, type Subscription } from 'rxjs';
import { errorWords, statusOf } from '../common/error-words';
import { type Progress, Upload } from './upload';

/** A file on its way, as a new table or as newer rows of one. */
interface Sending {
  readonly file: File;
  readonly method: 'POST' | 'PUT';
  readonly address: string;
  /** The name that it has, or is to have. */
  readonly name: string;
  /** Rows of the file. */
  readonly rows: number;
  /** The table that is refreshed; none for a new one. */
  readonly table?: TableSummary | undefined;
}

/** The outcome of a file that was sent. */
export interface Sent {
  readonly of: Sending;
  readonly done: TableSummary & { readonly change: number };
}

/**
 * The file that is being brought in. It goes on whatever screen one goes to, which says so; it can be stopped from there, and what has
 * come of it is opened by whoever wants to, never by itself.
 */
@Injectable({ providedIn: 'root' })
export class GoingOn {
  private readonly upload = inject(Upload);
  private under: Subscription | undefined;
  readonly sending = signal<Sending | undefined>(undefined);
  readonly progress = signal<Progress | undefined>(undefined);
  readonly isGoing = computed(() => this.progress() !== undefined);
  /** The outcome of the last file, until somebody has seen it. */
  readonly sent = signal<Sent | undefined>(undefined);
  readonly failed = signal('');
  readonly ended = new Subject<Sent>();

  begin(sending: Sending): void {
    this.sending.set(sending);
    this.sent.set(undefined);
    this.failed.set('');
    this.under = this.upload.send<Sent['done']>(sending.method, sending.address, sending.file).subscribe({
      next: (uploading) => {
        if ('progress' in uploading) return this.progress.set(uploading.progress);
        const sent = { of: sending, done: uploading.done };
        this.progress.set(undefined);
        this.sent.set(sent);
        this.ended.next(sent);
      },
      error: (error: unknown) => {
        this.progress.set(undefined);
        this.failed.set(
          statusOf(error) === 0
            ? 'The connection broke. Nothing was stored; the file and all that you chose are still here. Try again.'
            : `${errorWords(error)} Nothing was stored.`,
        );
      },
    });
  }

  /** Breaks it off: nothing of it is left behind. */
  stop(): void {
    this.under?.unsubscribe();
    this.progress.set(undefined);
    this.failed.set('Stopped. Nothing was stored; the file and all that you chose are still here.');
  }

  /** Forgets what has come of it, which has been seen. */
  seen(): void {
    this.sent.set(undefined);
    this.failed.set('');
    this.sending.set(undefined);
  }
}

import { ChangeDetectionStrategy, Component, computed, inject, output } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { WireReason } from '@usual-needle/contract';
import { catchError, debounceTime, map, of, switchMap } from 'rxjs';
import { questionOf } from '../../common/question';
import { stitchOf } from '../../common/cell-parts';
import { listed } from '../../common/sentence';
import { Api } from '../../services/api';
import { patiently } from '../../services/latest';
import { counted, rowsCounted as rows } from '../../services/numbers';
import { Answers } from '../state/answers';
import { changedBox } from '../state/box-change';
import { SheetStore } from '../state/sheet-store';
import { reasonWords } from './reason-words';

/** Reasons, and the question that they are about: a remedy is for no other. */
interface Explained {
  readonly key: string;
  readonly reasons: readonly WireReason[];
  readonly failed: boolean;
}

/** No rows: the box's own message first, then what stands in the way, each with one click out of it. */
@Component({
  selector: 'un-nothing-found',
  templateUrl: './nothing-found.html',
  styleUrl: './nothing-found.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NothingFound {
  private readonly api = inject(Api);
  private readonly store = inject(SheetStore);
  private readonly answers = inject(Answers);
  readonly clear = output<void>();
  readonly mended = output<void>();

  protected readonly message = computed(() => {
    if (this.empty()) return 'This table has no rows yet.';
    const lacking = this.store.lacking();
    if (lacking.length > 0)
      return `${listed(lacking)} ${lacking.length === 1 ? 'is' : 'are'} not there any more, and ${lacking.length === 1 ? 'is' : 'are'} not searched.`;
    if (this.nothingLeftOut()) return 'Marking in place leaves nothing out, so there are no others.';
    return this.store.box().wording?.nothingFound ?? 'No row has that.';
  });
  private readonly empty = computed(() => this.answers.answer()?.total === 0);
  private readonly nothingLeftOut = computed(() => {
    const { flip, effect } = this.store.definition();
    return flip === true && effect === 'mark in place';
  });
  protected readonly typed = computed(() => this.store.strands().some(({ text }) => text.trim() !== ''));
  private readonly asked = computed(() => {
    const table = this.store.table();
    const question = questionOf(this.store.box());
    // What cannot be read was not searched for: nothing stands in its way.
    return table && !this.empty() && !this.nothingLeftOut() && !this.answers.problem()
      ? { table: table.id, question, key: JSON.stringify(question) }
      : undefined;
  });
  /** Asked for apart from the rows, and only once typing pauses. */
  private readonly explained = toSignal(
    toObservable(this.asked).pipe(
      debounceTime(120),
      switchMap((asked) => {
        if (!asked) return of<Explained>({ key: '', reasons: [], failed: false });
        const { key, question } = asked;
        return this.api.explain(asked.table, { question, ...this.answers.turnNow() }).pipe(
          patiently(1),
          map(({ reasons }): Explained => ({ key, reasons, failed: false })),
          catchError(() => of<Explained>({ key, reasons: [], failed: true })),
        );
      }),
    ),
  );
  protected readonly failed = computed(() => this.explained()?.failed ?? false);

  protected readonly reasons = computed(() => {
    const explained = this.explained();
    // What is known of another text is of no use for this one.
    if (!explained || explained.key !== this.asked()?.key) return undefined;
    const keywords = this.answers.answer()?.keywords ?? [];
    return explained.reasons.map((reason) => {
      const keyword = keywords.find(({ text, strand }) => text === reason.keyword && strand === reason.strand);
      return {
        ...reasonWords(reason),
        stitch: keyword && keyword.number > 0 ? stitchOf(keyword.number) : '',
        gives: `Gives ${rows(reason.rows)}.`,
        reason,
      };
    });
  });

  protected readonly where = computed(() => {
    const answer = this.answers.answer();
    if (!answer || this.empty() || this.nothingLeftOut()) return '';
    const threaded = this.store.threaded();
    if (threaded.length === 0 && answer.asked)
      return 'No column is threaded, so nothing was searched. Click an eyelet in the header.';
    const shortened = threaded.length > 8 ? [...threaded.slice(0, 6), `${threaded.length - 6} more`] : threaded;
    return answer.asked ? `Looked in ${listed(shortened)} of all ${counted(answer.total)} rows.` : '';
  });

  protected mend(reason: WireReason): void {
    this.store.update(changedBox(this.store.box(), reason.change));
    this.mended.emit();
  }
}

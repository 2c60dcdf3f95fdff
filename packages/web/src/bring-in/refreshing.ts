import { inject, Injectable, signal, computed, DestroyRef } from '@angular/core';
import { columnAt, type FileChoices, type Refresh, type TableSummary } from '@usual-needle/contract';
import type { Look } from '@usual-needle/formats';
import type { Subscription } from 'rxjs';
import { errorWords } from '../common/error-words';
import { counted, rowsCounted } from '../services/numbers';
import { likeness } from './likeness';
import { sentChoices } from './sent-choices';
import { Upload } from './upload';

/** Names that speak of a key. */
const KEYS = /\b(?:no|nr|id|number|code|key)\b/i;
/** From so alike on, a column is offered for another. */
const ALIKE = 0.4;

/** What a refresh of a table by a file would do: asked of the server, which does nothing yet. */
@Injectable()
export class Refreshing {
  private readonly upload = inject(Upload);
  readonly gone = signal<'keep' | 'remove'>('keep');
  private readonly chosenKey = signal<readonly string[] | undefined>(undefined);
  private readonly offeredKey = signal<readonly string[]>([]);
  readonly key = computed(() => this.chosenKey() ?? this.offeredKey());
  readonly plan = signal<Refresh | undefined>(undefined);
  readonly problem = signal('');
  /** Columns of the file that could be columns of the table by another name. */
  readonly alike = signal<readonly { readonly column: number; readonly file: string; readonly table: string }[]>([]);
  private asking: Subscription | undefined;
  private asked = '';

  readonly byWords = computed(() => (this.key().length === 0 ? 'by their places' : `by ${this.key().join(' and ')}`));
  readonly words = computed(() => {
    const plan = this.plan();
    if (!plan) return { does: '.', gone: '', rest: '' };
    return {
      does: `: adds ${counted(plan.added)}, changes ${rowsCounted(plan.changed)},`,
      gone: `${counted(plan.gone)} that ${plan.gone === 1 ? 'is' : 'are'} gone,`,
      rest: `leaves ${counted(plan.unchanged)} as ${plan.unchanged === 1 ? 'it is' : 'they are'}.`,
    };
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => this.asking?.unsubscribe());
  }

  chooseKey(names: readonly string[]): void {
    this.chosenKey.set(names);
  }

  /** Names that both file and table have. */
  common(look: Look, table: TableSummary | undefined): string[] {
    const columns = table?.columns ?? [];
    const places = new Set(
      look.columns.filter(({ taken }) => taken).map(({ column }) => columnAt(columns, column.name)),
    );
    return columns.filter((_, i) => places.has(i)).map(({ name }) => name);
  }

  address({ id }: TableSummary, look: Look, choices: FileChoices, preview: boolean): string {
    const query = new URLSearchParams({
      gone: this.gone(),
      how: JSON.stringify(sentChoices(look, choices)),
    });
    for (const key of this.key()) query.append('key', key);
    const plan = this.plan();
    if (preview) query.set('preview', 'true');
    else if (plan) query.set('on', String(plan.change));
    return `/api/tables/${id}/rows?${query.toString()}`;
  }

  /** Asks what it would do, if that is not what was asked last. */
  ask(file: File, table: TableSummary, look: Look, choices: FileChoices): void {
    const common = this.common(look, table);
    const key = common.find((name) => KEYS.test(name));
    if (this.chosenKey() === undefined) this.offeredKey.set(key === undefined ? [] : [key]);
    this.alike.set(alikeIn(look, table, common));
    const address = this.address(table, look, choices, true);
    const asked = `${file.name} ${file.size} ${file.lastModified} ${address}`;
    if (asked === this.asked) return;
    this.asked = asked;
    this.asking?.unsubscribe();
    this.plan.set(undefined);
    this.problem.set('');
    this.asking = this.upload.send<Refresh>('PUT', address, file).subscribe({
      next: (uploading) => {
        if ('done' in uploading) this.plan.set(uploading.done);
      },
      error: (error: unknown) => {
        this.problem.set(errorWords(error));
        // Asked again, it may be answered.
        this.asked = '';
      },
    });
  }
}

function alikeIn(look: Look, table: TableSummary, common: readonly string[]) {
  const left = table.columns.filter(({ name }) => !common.includes(name));
  return look.columns.flatMap(({ column, taken }, i) => {
    if (!taken || columnAt(table.columns, column.name) >= 0) return [];
    const best = left
      .map((one) => ({ table: one.name, like: likeness(column.name, one.name) + (one.kind === column.kind ? 0.1 : 0) }))
      .sort((a, b) => b.like - a.like)[0];
    return best && best.like >= ALIKE ? [{ column: i, file: column.name, table: best.table }] : [];
  });
}

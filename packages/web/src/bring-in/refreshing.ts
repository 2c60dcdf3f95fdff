import { inject, Injectable, signal, computed, DestroyRef } from '@angular/core';
import { columnAt, type FileChoices, type Refresh, type TableSummary } from '@usual-needle/contract';
import type { Look } from '@usual-needle/formats';
import type { Subscription } from 'rxjs';
import { errorWords } from '../common/error-words';
import { counted, plural, rowsCounted } from '../services/numbers';
import { Person } from '../services/person';
import { likeness } from './likeness';
import { sentChoices } from './sent-choices';
import { Upload } from './upload';

/** Names that speak of a key. */
const KEYS = /\b(?:no|nr|id|number|code|key)\b/i;
/** The likeness from which on a column is offered for another. */
const ALIKE = 0.4;

const UNCLEAR_WAYS = {
  refuse: 'are to be settled',
  first: 'the first of each is taken',
  leave: 'are left as they are here',
} as const;

/** A phrase of the sentence of a refresh. */
interface RefreshPhrase {
  readonly text: string;
  readonly sets?: 'gone' | 'removed' | 'clashes' | 'unclear';
}

/** Phrases that are said where there is something to say them of. */
function told(count: number, phrases: readonly RefreshPhrase[]): readonly RefreshPhrase[] {
  return count === 0 ? [] : phrases;
}

/** The preview of a refresh, asked of the server, which does nothing yet. */
@Injectable()
export class Refreshing {
  private readonly upload = inject(Upload);
  private readonly person = inject(Person);
  readonly gone = signal<'keep' | 'remove'>('keep');
  /** The side whose value stands in a cell that was changed here and in the file; and cells for which it is the other's, as `row:column`. */
  readonly clashes = signal<'ours' | 'theirs'>('ours');
  readonly except = signal<ReadonlySet<string>>(new Set());
  /** The way of rows whose key does not tell them; to be settled where there are such. */
  readonly unclear = signal<'refuse' | 'first' | 'leave'>('refuse');
  /** The way of rows of the file that were removed here. */
  readonly removed = signal<'stay' | 'back'>('stay');
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
  /** The sentence of the refresh, as phrases; those that set something open their choices. */
  readonly phrases = computed<readonly RefreshPhrase[]>(() => {
    const plan = this.plan();
    if (!plan) return [{ text: '.' }];
    const are = (count: number, one: string, many: string): string => (count === 1 ? one : many);
    return [
      { text: `: adds ${counted(plan.added)}, changes ${rowsCounted(plan.changed)}, ` },
      ...told(plan.gone, [
        { text: this.gone() === 'keep' ? 'keeps' : 'removes', sets: 'gone' },
        { text: ` ${counted(plan.gone)} that ${are(plan.gone, 'is', 'are')} gone, ` },
      ]),
      { text: `leaves ${counted(plan.unchanged)} as ${are(plan.unchanged, 'it is', 'they are')}.` },
      ...told(plan.mended, [
        { text: ` Leaves ${plural(plan.mended, 'cell')} as ${are(plan.mended, 'it was', 'they were')} mended here.` },
      ]),
      ...told(plan.removed, [
        { text: ' ' },
        { text: this.removed() === 'stay' ? 'Leaves out' : 'Brings back', sets: 'removed' },
        { text: ` ${rowsCounted(plan.removed)} that ${are(plan.removed, 'was', 'were')} removed here.` },
      ]),
      ...told(plan.clashing, [
        {
          text: ` ${plural(plan.clashing, 'cell')} ${are(plan.clashing, 'was', 'were')} changed here and in the file: `,
        },
        { text: this.clashWords(), sets: 'clashes' },
        { text: '.' },
      ]),
      ...told(plan.unclear.file + plan.unclear.table, [
        { text: ` ${unclearWords(plan, this.key())} ` },
        { text: UNCLEAR_WAYS[this.unclear()], sets: 'unclear' },
        { text: '.' },
      ]),
    ];
  });
  /** The words on whose value stands. */
  private readonly clashWords = computed(() => {
    const { size } = this.except();
    const own = this.clashes() === 'ours' ? 'ours stand' : 'the file’s are taken';
    return size === 0 ? own : `${own}, but for ${counted(size)}`;
  });
  /** Whether there is something to settle first. */
  readonly unsettled = computed(() => {
    const unclear = this.plan()?.unclear;
    return unclear !== undefined && unclear.file + unclear.table > 0 && this.unclear() === 'refuse';
  });

  constructor() {
    inject(DestroyRef).onDestroy(() => this.asking?.unsubscribe());
  }

  chooseClashes(whose: 'ours' | 'theirs'): void {
    this.clashes.set(whose);
    this.except.set(new Set());
  }

  /** Chooses whose cell is taken of one clash. */
  take(row: number, column: string, whose: 'ours' | 'theirs'): void {
    const next = new Set(this.except());
    if (whose === this.clashes()) next.delete(`${row}:${column}`);
    else next.add(`${row}:${column}`);
    this.except.set(next);
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
      clashes: this.clashes(),
      unclear: this.unclear(),
      removed: this.removed(),
      ...this.person.asWho(),
    });
    for (const key of this.key()) query.append('key', key);
    for (const cell of this.except()) query.append('except', cell);
    const plan = this.plan();
    if (preview) query.set('preview', 'true');
    else if (plan) query.set('on', String(plan.change));
    return `/api/tables/${id}/rows?${query.toString()}`;
  }

  /** Asks what it would do, if that is not what was asked last. */
  ask(file: File, table: TableSummary, look: Look, choices: FileChoices): void {
    const common = this.common(look, table);
    // As it was done the last time, where the file has those columns.
    const before = table.refreshedBy?.key.filter((name) => common.includes(name)) ?? [];
    const likely = common.find((name) => KEYS.test(name));
    const key = before.length > 0 ? before : likely === undefined ? [] : [likely];
    if (this.chosenKey() === undefined) this.offeredKey.set(key);
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

function unclearWords({ unclear: { file, table } }: Refresh, key: readonly string[]): string {
  const where = file === 0 ? 'here' : table === 0 ? 'of the file' : 'of the file and here';
  const have = file + table === 1 ? 'has' : 'have';
  return `${rowsCounted(file + table)} ${where} ${have} a blank or repeated ${key.join(' and ')}, and`;
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

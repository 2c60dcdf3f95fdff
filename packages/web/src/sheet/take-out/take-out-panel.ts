import {
  ChangeDetectionStrategy,
  Component,
  computed,
  ElementRef,
  inject,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import {
  LARGEST_EARLIER,
  LIMITS,
  TAKE_AWAY_ROWS,
  TAKEN_BY_ID,
  type Column,
  type TakeOutForm,
  type TakeOutRequest,
} from '@usual-needle/contract';
import { FORMS } from '@usual-needle/formats/light';
import { InputText } from 'primeng/inputtext';
import { interval, map, startWith } from 'rxjs';
import { questionOf } from '../../common/question';
import { sentence } from '../../common/sentence';
import { Hint } from '../../look/hint';
import { Pop } from '../../look/pop';
import { takeFocus } from '../../look/take-focus';
import { Tick } from '../../look/tick';
import { copyText } from '../../people/copy-text';
import { MyAccess } from '../../people/me';
import { Api } from '../../services/api';
import { counted, rowsCounted } from '../../services/numbers';
import { Remarks } from '../../services/remarks';
import { giveCopy } from '../grid/give-copy';
import { Selection } from '../grid/selection';
import { writeAddress } from '../state/address';
import { Answers } from '../state/answers';
import { BoxSaving } from '../state/box-saving';
import { rawCell } from '../state/fetched-rows';
import { SheetStore } from '../state/sheet-store';
import { copiedCells, type CopiedRow } from './cells-copied';
import { type How, rememberedHow, rememberHow } from './how';
import { aboutBytes, type Counts, takeOutSentence, type TakeOutPhrase, timeLeft } from './take-out-words';
import { type Taken, TakingOut } from './taking-out';

/** Rows that are shown of what will leave, and letters of a cell there. */
const PREVIEWED = 2;
const PREVIEWED_LETTERS = 22;
/** Rows that go to the clipboard at once. */
const COPIED = LIMITS.edited;
/** A file that is taken out is kept so long, in milliseconds. */
const KEPT_MS = 60_000;
/** The bytes that a row takes in each form, beside its cells, and the share of it that is left where the form is compressed. */
const SIZES: Readonly<Record<How['form'], readonly [bytesACell: number, share: number]>> = {
  csv: [1, 1],
  json: [18, 1],
  ndjson: [18, 1],
  xlsx: [45, 0.12],
  page: [12, 1],
};
/** Bytes of a take-away page without its rows, and what a letter of a cell and a cell take in it. */
const PAGE_BYTES = 620_000;
const PACKED_LETTER = 0.3;
const PACKED_CELL = 1;

/** Rows on show leave: as a file, as cells, as a page to print; and the address that always gives those of now. */
@Component({
  selector: 'un-take-out-panel',
  imports: [Hint, InputText, Pop, Tick],
  templateUrl: './take-out-panel.html',
  styleUrl: './take-out-panel.css',
  host: { class: 'beside-rows', role: 'complementary', 'aria-label': 'Take out', tabindex: '-1' },
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class TakeOutPanel {
  private readonly api = inject(Api);
  private readonly answers = inject(Answers);
  private readonly remarks = inject(Remarks);
  private readonly saving = inject(BoxSaving);
  private readonly selection = inject(Selection);
  protected readonly store = inject(SheetStore);
  protected readonly taking = inject(TakingOut);
  protected readonly access = inject(MyAccess);
  readonly closed = output<void>();
  private readonly pop = viewChild.required(Pop);

  protected readonly how = signal<How>(rememberedHow());
  protected readonly opened = signal<TakeOutPhrase | undefined>(undefined);
  protected readonly forms: readonly TakeOutForm[] = ['json', 'ndjson', 'xlsx'];
  protected readonly named: Readonly<Partial<Record<TakeOutForm, string>>> = {
    json: 'JSON',
    ndjson: 'JSON lines',
    xlsx: 'a spreadsheet file',
  };

  private readonly counts = computed<Counts>(() => {
    const { shown = 0, total = 0, narrowed = 0 } = this.answers.answer() ?? {};
    const selected = this.selection.isMany() || this.selection.byRow() ? this.selection.rows().length : 0;
    const { effect = 'show only matches' } = this.store.definition();
    const within = effect === 'mark in place' ? shown : Math.min(total, narrowed);
    return {
      shown,
      selected,
      others: this.store.may('flip') ? Math.max(0, within - shown) : 0,
      columns: this.store.layout().length,
      allColumns: this.store.allColumns().length,
      sorted: this.store.sort().length > 0,
    };
  });
  /** The way that holds: what is selected may have been let go since it was chosen. */
  protected readonly chosen = computed<How>(() => {
    const { selected, others } = this.counts();
    const { rows } = this.how();
    const isGone = (rows === 'selected' && selected === 0) || (rows === 'others' && others === 0);
    return isGone ? { ...this.how(), rows: 'on show' } : this.how();
  });
  protected readonly count = computed(() => {
    const { shown, selected, others } = this.counts();
    return { 'on show': shown, selected, others }[this.chosen().rows];
  });
  protected readonly phrases = computed(() => takeOutSentence(this.chosen(), this.counts()));

  /** The first of the rows on show, as far as they have been fetched, with what they hold as stored. */
  private readonly sample = computed(() => {
    const columns = this.store.layout().map(({ name }) => name);
    return [0, 1, 2, 3, 4].flatMap((index) => {
      const row = this.answers.rowAt(index);
      return row ? [columns.map((name) => rawCell(row, row.columns.indexOf(name)))] : [];
    });
  });
  protected readonly preview = computed(() => {
    const { rows, columns } = this.chosen();
    if (rows !== 'on show' || columns !== 'on show' || this.sample().length === 0) return '';
    const short = (text: string): string => {
      const line = text.replace(/\s+/g, ' ');
      return line.length > PREVIEWED_LETTERS ? `${line.slice(0, PREVIEWED_LETTERS - 1)}…` : line;
    };
    const lines = [this.store.layout().map(({ name }) => name), ...this.sample().slice(0, PREVIEWED)].map((cells) =>
      cells.map(short),
    );
    const widths = lines[0].map((_, i) => Math.max(...lines.map((cells) => cells[i].length)));
    const text = lines.map((cells) => cells.map((cell, i) => cell.padEnd(widths[i] + 2)).join('')).join('\n');
    const more = this.count() - PREVIEWED;
    return more > 0 ? `${text}\n… ${counted(more)} more` : text;
  });
  /** About how large it will be, by the rows that are here. */
  protected readonly size = computed(() => {
    const rows = this.sample();
    const { form, columns } = this.chosen();
    if (rows.length === 0) return '';
    const [bytesACell, share] = SIZES[form];
    const { columns: shown, allColumns } = this.counts();
    const letters = rows.flat().reduce((sum, cell) => sum + cell.length, 0) / rows.length;
    const row = (letters + bytesACell * shown) * (columns === 'every column' ? allColumns / shown : 1);
    return aboutBytes(row * share * this.count());
  });

  private readonly now = toSignal(
    interval(500).pipe(
      startWith(0),
      map(() => performance.now()),
    ),
    { initialValue: 0 },
  );
  protected readonly progress = computed(() => {
    const under = this.taking.underWay();
    if (!under) return '';
    const { rows, of, began } = under;
    if (of === undefined) return 'The rows are being looked up …';
    const seconds = Math.max(0, this.now() - began) / 1_000;
    const rate = seconds > 0 ? `${counted(Math.round(rows / seconds))} rows a second` : '';
    return [`${counted(rows)} of ${rowsCounted(of)}`, rows > 0 ? rate : '', timeLeft(rows, of, seconds)]
      .filter(Boolean)
      .join(' · ');
  });
  protected readonly problem = computed(() => this.taking.problem());

  constructor() {
    takeFocus(inject<ElementRef<HTMLElement>>(ElementRef));
  }

  protected readonly slug = computed(() => (this.store.readerMay() ? this.api.slug : undefined));
  /** The box's address in a form; undefined where it is not saved. */
  protected readonly address = computed(() => {
    const name = this.slug() ?? this.saving.stored()?.id;
    if (name === undefined) return undefined;
    const query = writeAddress(this.store.box(), this.store.saved());
    return (form: TakeOutForm | 'atom'): string =>
      `${location.origin}/b/${encodeURIComponent(name)}.${form}${query === '' ? '' : `?${query}`}`;
  });

  protected open(phrase: TakeOutPhrase, event: Event): void {
    this.opened.set(phrase);
    this.pop().toggle(event);
  }

  protected set(change: Partial<How>): void {
    this.how.update((how) => ({ ...how, ...change }));
    rememberHow(this.how());
  }

  private columns(): readonly { readonly name: string; readonly width?: number }[] {
    return this.chosen().columns === 'on show' ? this.store.layout() : this.store.allColumns();
  }

  /** Gives what is asked for; undefined, once that is said, where it cannot be. */
  private request(change: Partial<How> = {}): TakeOutRequest | undefined {
    const { rows, form, header, safe, delimiter, mark, marks } = { ...this.chosen(), ...change };
    const box = this.store.box();
    const question = questionOf(rows === 'others' ? { ...box, flip: !box.flip } : box);
    const columns = this.columns();
    const isAll = rows === 'selected' && this.selection.byRow() === 'all';
    const ids = rows === 'selected' && !isAll ? this.selection.rows() : undefined;
    if (ids && ids.length > TAKEN_BY_ID) {
      this.remarks.say(`Up to ${rowsCounted(TAKEN_BY_ID)} can be selected one by one. Narrow the box to them instead.`);
      return undefined;
    }
    if (ids?.includes(undefined)) {
      this.remarks.say('The selected rows are still being fetched. Try it again in a moment.');
      return undefined;
    }
    const widths = columns.flatMap(({ width }) => width ?? []);
    const phrases = sentence(this.store.definition(), this.store.allColumns().length);
    return {
      ...{ form, header, safe, delimiter, mark, marks },
      question,
      columns: columns.map(({ name }) => name),
      ...(widths.length === columns.length && { widths }),
      ...(ids && { rows: ids.flatMap((id) => id ?? []) }),
      name: this.store.definition().name ?? this.store.table()?.name ?? 'Rows',
      sentence: phrases
        .map(({ text }) => text)
        .join('')
        .slice(0, 4_000),
    };
  }

  protected take(): void {
    const table = this.store.table();
    const request = this.request();
    if (!table || !request) return;
    // Opened by the click itself: browsers let nothing open later.
    const page = request.form === 'page' ? window.open('', '_blank') : null;
    const came = (taken: Taken): void => {
      if (page) this.print(page, taken);
      else this.save(taken, `${request.name}.${FORMS[request.form].extension}`);
      const from = table.id > LARGEST_EARLIER ? '' : `, as of change ${counted(taken.change)}`;
      this.remarks.say(`${rowsCounted(taken.rows)} ${taken.rows === 1 ? 'is' : 'are'} taken out${from}.`);
    };
    this.taking.take(table.id, request, came, () => page?.close());
  }

  /** Rows that a take-away page would have: all that there are for who asks, whatever is on show. */
  protected readonly pageRows = computed(() => this.answers.answer()?.total ?? 0);
  protected readonly pageSize = computed(() => {
    const rows = this.sample();
    if (rows.length === 0) return '';
    const { columns, allColumns } = this.counts();
    const letters = rows.flat().reduce((sum, cell) => sum + cell.length, 0) / rows.length;
    const row = (letters * PACKED_LETTER + columns * PACKED_CELL) * (allColumns / columns);
    return aboutBytes(PAGE_BYTES + row * this.pageRows());
  });
  protected readonly tooMany = computed(() =>
    this.pageRows() > TAKE_AWAY_ROWS
      ? `It takes ${rowsCounted(TAKE_AWAY_ROWS)} at most. A picker that is locked for readers makes them fewer.`
      : '',
  );

  /** Takes the box away as a page, with all of its rows. */
  protected takeAway(): void {
    const table = this.store.table();
    if (!table) return;
    const box = this.store.box();
    const name = box.name ?? table.name;
    this.taking.take(table.id, { form: 'take-away', question: { threaded: [] }, name, box }, (taken) => {
      this.save(taken, `${name}.html`);
      this.remarks.say(`The page is taken away, with ${rowsCounted(taken.rows)} of change ${counted(taken.change)}.`);
    });
  }

  private save({ file }: Taken, name: string): void {
    const link = document.createElement('a');
    link.href = URL.createObjectURL(file);
    link.download = name;
    link.click();
    // Some browsers begin to read it only after this.
    setTimeout(() => URL.revokeObjectURL(link.href), KEPT_MS);
  }

  private print(page: Window, { file }: Taken): void {
    const address = URL.createObjectURL(file);
    page.location.href = address;
    page.addEventListener('load', () => page.print());
    setTimeout(() => URL.revokeObjectURL(address), KEPT_MS);
  }

  /** Copies the rows as text with tabs, and as a table with its marks. */
  protected copy(): void {
    if (this.count() > COPIED) {
      this.remarks.say(`${rowsCounted(COPIED)} at most go to the clipboard. Take them out as a file instead.`);
      return;
    }
    const table = this.store.table();
    const request = this.request({ form: 'ndjson', marks: true });
    if (!table || !request) return;
    const names = request.columns!;
    const columns = names.map((name): Column => table.columns.find((column) => column.name === name)!);
    this.taking.take(table.id, request, ({ file, rows }) => {
      void file.text().then((text) => {
        const { text: cells, html } = copiedCells(columns, rowsIn(text, names), this.how().header);
        this.remarks.say(
          giveCopy(cells, html) ? `${rowsCounted(rows)} copied.` : 'The browser did not let it be copied.',
        );
      });
    });
  }

  protected copyAddress(address: string): void {
    void copyText(address, 'The address is copied.', this.remarks);
  }
}

/** Rows of NDJSON, their marks by the places of their columns. */
function rowsIn(text: string, names: readonly string[]): CopiedRow[] {
  const places = new Map(names.map((name, i) => [name, i]));
  return text
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => {
      const { cells, marks = [] } = JSON.parse(line) as {
        cells: Record<string, string>;
        marks?: [string, number, number, number][];
      };
      const placed = marks.map(([column, ...mark]) => [places.get(column)!, ...mark] as const);
      return { cells: names.map((name) => cells[name]), marks: placed };
    });
}

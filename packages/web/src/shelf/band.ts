import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  ElementRef,
  inject,
  input,
  output,
  signal,
} from '@angular/core';
import { RouterLink } from '@angular/router';
import type { SourceTold, TableSummary } from '@usual-needle/contract';
import { ago } from '../common/ago';
import { sentence, shortSentence } from '../common/sentence';
import { Hint } from '../look/hint';
import { counted, rowsCounted } from '../services/numbers';
import { BestRows } from './best-rows';
import { type BandQuestion, Everywhere, rowsFound, type BandAnswer } from './everywhere';
import { SourceLine } from './source-line';
import { TableMenu } from './table-menu';

/** Bands so near to what is in view are drawn with it: pixels. */
const NEAR = 120;

/** The parts of a band that do not change while one types. */
interface Still {
  readonly asked: BandQuestion;
  readonly name: string;
  readonly path: string;
  readonly short: string;
  readonly whole: string;
}

interface Line extends Still {
  /** Where it leads, with the text that its rows answer. */
  readonly href: string;
  /** The words on what was typed. */
  readonly says: string;
  readonly count: string;
  readonly rows: Extract<BandAnswer, { answer: unknown }>['answer']['rows'];
  readonly error: string;
}

/** A table on the shelf, with its boxes below, and what each of them says of what is typed. */
@Component({
  selector: 'un-band',
  imports: [BestRows, Hint, RouterLink, SourceLine, TableMenu],
  templateUrl: './band.html',
  styleUrl: './band.css',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class Band {
  readonly table = input.required<TableSummary>();
  protected readonly builds = computed(() => this.table().role !== 'keeps');
  /** The table's questions: those of its boxes, and that of a new box, which counts its rows. */
  readonly asked = input.required<readonly BandQuestion[]>();
  /** Where its rows come from by themselves, if they do. */
  readonly source = input<SourceTold>();
  readonly refresh = output();
  readonly deleted = output();
  /** The table was renamed or described. */
  readonly changed = output();

  private readonly everywhere = inject(Everywhere);
  private readonly near = signal(true);
  /** A band out of sight is drawn once typing rests. */
  private readonly told = computed(() => (this.near() ? this.everywhere.told() : this.everywhere.toldLater()));
  protected readonly unfolded = signal<string | undefined>(undefined);

  private readonly still = computed(() =>
    this.asked()
      .filter(({ box }, _, all) => box !== undefined || all.length === 1)
      .map(stillOf),
  );
  protected readonly lines = computed(() => this.still().map((one) => lineOf(one, this.told().get(one.asked.key))));

  private readonly matched = computed(() => {
    return rowsFound(this.table().id, this.asked(), this.told());
  });
  protected readonly none = computed(
    () => this.matched() === 0 && this.lines().every(({ count }) => count === '' || count === '0'),
  );
  protected readonly count = computed(() => {
    const matched = this.matched();
    return matched === undefined ? '' : matched === 0 ? 'none' : counted(matched);
  });
  protected readonly rows = computed(() => rowsCounted(this.table().rows));

  constructor() {
    const watcher = new IntersectionObserver((seen) => this.near.set(seen.at(-1)!.isIntersecting), {
      rootMargin: `${NEAR}px`,
    });
    watcher.observe(inject<ElementRef<HTMLElement>>(ElementRef).nativeElement);
    inject(DestroyRef).onDestroy(() => watcher.disconnect());
  }

  /** Says when the table was changed, by the clock, so it is looked at whenever the band is drawn. */
  protected when(): string {
    return `changed ${ago(this.table().changedAt)}`;
  }
}

const NONE: readonly never[] = [];

function stillOf(asked: BandQuestion): Still {
  const { table, box } = asked;
  const phrases = box && sentence(box.box, table.columns.length, box.columnsShown);
  return {
    asked,
    name: box?.name ?? 'All its text columns',
    path: box ? `/box/${box.id}` : `/table/${table.id}`,
    short: box ? shortSentence(box.box) : 'No box on this table yet; searched as a new one would be.',
    whole: phrases?.map(({ text }) => text).join('') ?? '',
  };
}

function lineOf(still: Still, told: BandAnswer | undefined): Line {
  const { asked, path } = still;
  const answer = told && 'answer' in told ? told.answer : undefined;
  return {
    ...still,
    href: told ? `${path}?q=${encodeURIComponent(told.text)}` : path,
    ...counts(answer?.matched, asked.box?.box.effect),
    rows: answer?.rows ?? NONE,
    error: told && 'error' in told ? told.error : '',
  };
}

function counts(matched: number | undefined, effect: string | undefined): Pick<Line, 'says' | 'count'> {
  if (matched === undefined) return { says: '', count: '' };
  if (effect === 'leave matches out')
    return matched === 0 ? { says: 'leaves none out', count: '' } : { says: `left out`, count: counted(matched) };
  return { says: matched === 1 ? 'row' : 'rows', count: counted(matched) };
}

/**
 * A search: a question put to a table, answered segment by segment. Between segments it can be stopped, and what is known
 * so far can be shown. Counts grow as it goes and are final once `complete`.
 */
import {
  addBits,
  anyOf,
  countBits,
  countIn,
  dropBits,
  emptyBits,
  isFew,
  keepBits,
  ownBits,
  type Bits,
  type RowSet,
  type Segment,
  type Table,
} from '../store/index.js';
import { Budget, TooLarge } from '../automaton/index.js';
import { LIMITS, parse, type NamedColumn, type Notice, type Parsed } from '../notation/index.js';
import { compile, type Plan } from './compile.js';
import { SegmentAnswers } from './evaluate.js';
import type { Matcher } from './matchers/matcher.js';
import { pickerMatcher } from './matchers/picker-matchers.js';
import { TimeIsUp, within } from '../automaton/index.js';
import type { Question, Strand, Verb } from './question.js';
import { View } from './answer/view.js';

interface StrandTally {
  readonly verb: Verb;
  /** False for a strand that asks nothing and was skipped. */
  readonly asked: boolean;
  /** Rows this strand added, took away, and left. */
  added: number;
  removed: number;
  leaves: number;
}

/** A leaf of a plan that draws hits: who draws it, and where it looks. */
interface Leaf {
  readonly plan: Plan & { type: 'hit' };
  readonly strand: number;
  /** Across all strands, from 1, in order of appearance. */
  readonly keyword: number;
}

interface CompiledStrand {
  readonly verb: Verb;
  readonly parsed: Parsed;
  readonly plan: Plan | undefined;
}

/** A column that may not be seen has no name to be called by. */
const UNSEEN: NamedColumn = { name: '', kind: 'text' };

/** The columns by the names that a question may call them by, each with an example of its cells. */
export function namedColumns(table: Table, visible: Question['visible']): NamedColumn[] {
  const seen = visible && new Set(visible);
  return table.columns.map((column, i) =>
    seen && !seen.has(i) ? UNSEEN : { ...column, example: () => table.exampleOf(i) },
  );
}

function compileStrand(
  strand: Strand,
  question: Pick<Question, 'settings' | 'threaded'>,
  named: readonly NamedColumn[],
): CompiledStrand {
  const { verb, text, reading } = strand;
  const parsed = parse(text, question.settings, named, reading);
  try {
    return { verb, parsed, plan: parsed.tree && compile(parsed.tree, question.settings, question.threaded) };
  } catch (error) {
    if (!(error instanceof TooLarge)) throw error;
    const problem: Notice = { kind: 'refused', message: error.message, start: 0, end: text.length };
    return { verb, parsed: { ...parsed, tree: undefined, problem }, plan: undefined };
  }
}

/** Plans of strands that are locked; one that is undefined, where no row exists. One that asks nothing is none; one that cannot be read, or names a column that is not there, is undefined. */
function lockedPlans(table: Table, { locked, noRow }: Question): (Plan | undefined)[] {
  if (noRow) return [undefined];
  if (!locked) return [];
  const named = namedColumns(table, undefined);
  const compiled = Budget.of(LIMITS.instructions, () =>
    locked.strands.map((strand) => compileStrand(strand, locked, named)),
  );
  return compiled.flatMap(({ plan, parsed: { problem, notices } }) => {
    if (problem || notices.some(({ kind }) => kind === 'name')) return [undefined];
    return plan ? [plan] : [];
  });
}

function leavesOf(plan: Plan, visit: (leaf: Plan & { type: 'hit' }) => void): void {
  if (plan.type === 'hit') visit(plan);
  else if (plan.type !== 'not') for (const part of plan.of) leavesOf(part, visit);
}

/** Rows of a segment, and how many they are. */
interface Counted {
  readonly rows: Bits;
  readonly count: number;
}

function counted(rows: Bits): Counted {
  return { rows, count: countBits(rows) };
}

function copied({ rows, count }: Counted): Counted {
  return { rows: rows.slice(), count };
}

function noRows(rowCount: number): Counted {
  return { rows: emptyBits(rowCount), count: 0 };
}

export class Search {
  readonly strands: readonly CompiledStrand[];
  /** Leaves that draw marks, of all strands but *minus*. */
  readonly leaves: readonly Leaf[];
  /** Rows that match, per segment answered so far; not to be written to. */
  readonly matches: Bits[] = [];
  /** Rows on show, per segment answered so far; not to be written to. */
  readonly onShow: Bits[] = [];
  readonly strandTallies: StrandTally[];
  /** Matching rows that hit in each column of the table. */
  readonly columnTallies: number[];
  /** Matching rows that each keyword hits in; index 0 is keyword 1. */
  readonly keywordTallies: number[];
  matched = 0;
  shown = 0;
  /** Rows the table had in the segments answered so far. */
  searched = 0;
  /** Rows that the pickers leave, in the segments answered so far. */
  narrowed = 0;
  /** True if a strand asks something. */
  readonly asks: boolean;
  private readonly pickers: readonly { readonly column: number; readonly matcher: Matcher }[];
  /** Plans of the strands that are locked; undefined for one that cannot be read, which leaves no row. */
  private readonly locked: readonly (Plan | undefined)[];
  private readonly tableVersion: number;
  /** The segment that is being answered, if time was up in the middle of it. */
  private answering: SegmentAnswers | undefined;
  private builtView: View | undefined;

  constructor(
    readonly table: Table,
    readonly question: Question,
    /** False if it need not be counted how many rows each keyword and each column has. */
    private readonly tallied = true,
  ) {
    this.tableVersion = table.version;
    const named = namedColumns(table, question.visible);
    this.strands = Budget.of(LIMITS.instructions, () =>
      question.strands.map((strand) => compileStrand(strand, question, named)),
    );
    this.locked = lockedPlans(table, question);
    const leaves: Leaf[] = [];
    let drawn = 0;
    this.strands.forEach(({ verb, plan, parsed }, strand) => {
      if (verb === 'minus') return;
      if (plan) leavesOf(plan, (leaf) => leaves.push({ plan: leaf, strand, keyword: drawn + leaf.keyword }));
      drawn += parsed.keywords.filter(({ number }) => number > 0).length;
    });
    this.leaves = leaves;
    this.pickers = question.pickers.flatMap((picker) => {
      const matcher = pickerMatcher(picker);
      return matcher ? [{ column: picker.column, matcher }] : [];
    });
    this.asks = this.strands.some(({ plan }) => plan !== undefined);
    this.strandTallies = this.strands.map(({ verb, plan }) => ({
      verb,
      asked: plan !== undefined,
      added: 0,
      removed: 0,
      leaves: 0,
    }));
    this.columnTallies = table.columns.map(() => 0);
    this.keywordTallies = new Array<number>(drawn).fill(0);
  }

  /** Why a strand cannot be answered, if so. */
  get problem(): { readonly strand: number; readonly notice: Notice } | undefined {
    if (this.strands.length > LIMITS.strands) {
      const message = `A search takes ${LIMITS.strands} strands at most; this one has ${this.strands.length}.`;
      return { strand: LIMITS.strands, notice: { kind: 'refused', message, start: 0, end: 0 } };
    }
    const strand = this.strands.findIndex(({ parsed }) => parsed.problem !== undefined);
    return strand < 0 ? undefined : { strand, notice: this.strands[strand].parsed.problem! };
  }

  get complete(): boolean {
    return this.matches.length === this.table.segments.length;
  }

  /** True while the table is as it was when the search began; an outdated one has to be asked again. */
  get current(): boolean {
    return this.tableVersion === this.table.version;
  }

  /** The rows on show in their order, as far as they are known. */
  get view(): View {
    if (this.builtView?.upTo !== this.matches.length) this.builtView = new View(this);
    return this.builtView;
  }

  /**
   * Answers one segment more. A segment that takes longer than `milliseconds` is answered in part, and gone on with at the
   * next step.
   * @returns false if there was nothing left
   */
  step(milliseconds = Infinity): boolean {
    const segment = this.table.segments[this.matches.length];
    if (!segment) return false;
    if (this.answering?.segment !== segment) this.answering = new SegmentAnswers(segment);
    try {
      within(milliseconds, () => this.answer(segment, this.answering!));
    } catch (error) {
      if (error instanceof TimeIsUp) return true;
      throw error;
    }
    this.answering = undefined;
    return true;
  }

  /** Runs to the end. */
  run(): this {
    while (this.step());
    return this;
  }

  private answer(segment: Segment, answers: SegmentAnswers): void {
    const universe = this.universe(segment, answers);
    const tallies: StrandTally[] = this.strandTallies.map((tally) => ({ ...tally }));
    const found = this.asks ? this.strandRows(answers, universe, tallies) : this.blankRows(segment, universe);
    const counts = this.asks && this.tallied ? this.counts(answers, found) : undefined;
    // From here on nothing can be stopped any more.
    const onShow = this.shownRows(segment, universe, found);
    this.narrowed += universe.count;
    this.matches.push(found.rows);
    this.onShow.push(onShow.rows);
    this.matched += found.count;
    this.shown += onShow.count;
    this.searched += segment.liveCount;
    tallies.forEach((tally, i) => (this.strandTallies[i] = tally));
    counts?.byKeyword.forEach((rows, i) => (this.keywordTallies[i] += rows));
    counts?.byColumn.forEach((rows, i) => (this.columnTallies[i] += rows));
  }

  private universe(segment: Segment, answers: SegmentAnswers): Counted {
    const { pickers, locked } = this;
    if (pickers.length === 0 && locked.length === 0) return { rows: segment.live, count: segment.liveCount };
    const rows = segment.live.slice();
    for (const { column, matcher } of pickers) {
      const picked = answers.hits(column, matcher);
      if (!picked) return noRows(segment.rowCount);
      keepBits(rows, isFew(picked) ? ownBits(picked, segment.rowCount) : picked);
    }
    for (const plan of locked) {
      if (!plan) return noRows(segment.rowCount);
      keepBits(rows, answers.rows(plan));
    }
    return counted(rows);
  }

  private blankRows(segment: Segment, universe: Counted): Counted {
    const { effect, nothingTyped } = this.question;
    const every = effect === 'show only matches' && nothingTyped === 'every row';
    return every ? copied(universe) : noRows(segment.rowCount);
  }

  private strandRows(answers: SegmentAnswers, universe: Counted, tallies: readonly StrandTally[]): Counted {
    // Rows start as none where a strand finds, or where the first one that asks anything adds; otherwise as all.
    const asking = this.strands.filter(({ plan }) => plan !== undefined);
    const fromNone = asking.some(({ verb }) => verb === 'find') || asking[0].verb === 'plus';
    let { rows, count } = fromNone ? noRows(answers.segment.rowCount) : copied(universe);
    this.strands.forEach(({ verb, plan }, index) => {
      if (!plan) return;
      const answer = answers.rows(plan);
      keepBits(answer, universe.rows);
      const tally = tallies[index];
      const before = count;
      if (verb === 'find') rows = answer;
      else if (verb === 'plus') addBits(rows, answer);
      else if (verb === 'minus') dropBits(rows, answer);
      else keepBits(rows, answer);
      count = countBits(rows);
      if (verb === 'find') tally.added += count;
      else if (verb === 'plus') tally.added += count - before;
      else tally.removed += before - count;
      tally.leaves += count;
    });
    return { rows, count };
  }

  /** A picker that is on is never contradicted by a row on show, flipped or not. */
  private shownRows(segment: Segment, universe: Counted, matches: Counted): Counted {
    const { effect, flip, nothingTyped } = this.question;
    if (!this.asks && nothingTyped === 'no row') return flip ? copied(universe) : noRows(segment.rowCount);
    if (effect === 'show only matches' && !flip) return matches;
    if (effect === 'mark in place') return flip ? noRows(segment.rowCount) : copied(universe);
    // What is left out of what leaves matches out is the matches.
    if (effect === 'leave matches out' && flip) return matches;
    const rows = universe.rows.slice();
    dropBits(rows, matches.rows);
    return { rows, count: universe.count - matches.count };
  }

  /** Counts how many of the matches in a segment each keyword and each column has. */
  private counts(answers: SegmentAnswers, matches: Counted): { byKeyword: number[]; byColumn: Map<number, number> } {
    const byColumn = new Map<number, number>();
    const byKeyword = this.keywordTallies.map(() => 0);
    // Of no row nothing is to be counted, and what was not asked need not be.
    if (matches.count === 0) return { byKeyword, byColumn };
    const { rowCount } = answers.segment;
    const within = (sets: readonly RowSet[]): number => {
      const rows = anyOf(sets, rowCount);
      return rows ? countIn(rows, matches.rows) : 0;
    };
    const asking = this.strands.flatMap(({ plan }) => plan ?? []);
    const hitsOf = new Map<number, RowSet[]>();
    this.leaves.forEach(({ plan, keyword }) => {
      const all: RowSet[] = [];
      for (const column of plan.columns) {
        const hits = answers.hits(column, plan.matcher);
        if (!hits) continue;
        all.push(hits);
        const others = hitsOf.get(column);
        if (others) others.push(hits);
        else hitsOf.set(column, [hits]);
      }
      // Of a keyword that is all that is asked, each match has it.
      const isAll = asking.length === 1 && asking[0] === plan;
      byKeyword[keyword - 1] += isAll ? matches.count : within(all);
    });
    for (const [column, hits] of hitsOf) byColumn.set(column, within(hits));
    return { byKeyword, byColumn };
  }
}

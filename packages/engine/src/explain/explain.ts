/**
 * Why nothing was found, and the way out. Each reason is a change to the question and the rows that the changed question
 * gives, found by asking it; so what is offered is what comes of it. Most of such a question has been answered before and
 * is remembered, which is what makes a dozen of them quick.
 *
 * Where no single change gives a row, pairs are tried, and then all that mends a keyword together.
 */
import { parse, type Keyword } from '../notation/index.js';
import { Search, type Question } from '../search/index.js';
import { finished, type Table } from '../store/index.js';
import { fold } from '../text/index.js';
import { changed, type Change } from './change.js';
import { nearSpellings } from './near-spellings.js';
import { sameLetters } from './without-signs.js';

/** The most useful first. */
const KINDS = [
  'near spelling',
  'signs',
  'other columns',
  'unreadable',
  'picker',
  'strand',
  'case',
  'accents',
  'position',
  'reading',
  'together',
  'any word',
  'one keyword',
] as const;

export type ReasonKind = (typeof KINDS)[number];

export interface Reason {
  readonly kind: ReasonKind;
  readonly change: Change;
  /** Rows on show once the change is made; never 0. */
  readonly rows: number;
  /** The keyword it is about, as typed. */
  readonly keyword?: string;
  /** Strand and number of that keyword, as the search numbers them; 0 for none. */
  readonly strand?: number;
  /** Rows of the whole table that hold the word offered, or the keyword, in the columns named. */
  readonly found?: number;
  /** Columns it is about, with the rows of each. */
  readonly columns?: readonly { readonly column: number; readonly rows: number }[];
  /** The word offered, or what could not be read. */
  readonly text?: string;
}

/** Most reasons given. */
export const MOST_REASONS = 5;
/** Near spellings, and texts with other signs, tried for one keyword. */
const TRIED = 3;
/** Changes that are tried in pairs: the first ones, so many. */
const PAIRED = 8;

/** What a box or its reader has settled: these are tried in pairs whatever else was found. */
const SETTLED: ReadonlySet<ReasonKind> = new Set(['picker', 'strand', 'case', 'accents', 'position', 'reading']);

type Offer = Omit<Reason, 'rows'>;

interface Placed {
  readonly keyword: Keyword;
  readonly strand: number;
}

/** What can be looked up of a keyword: its text without the signs around it, and where that stands in the strand. */
interface Bare {
  readonly text: string;
  readonly start: number;
  readonly end: number;
}

class Explainer {
  readonly reasons: Reason[] = [];
  /** Changes that give no row by themselves. */
  private readonly vain: Offer[] = [];
  private readonly seen: readonly number[];

  constructor(
    private readonly table: Table,
    private readonly question: Question,
  ) {
    this.seen = question.visible ?? table.columns.map((_, i) => i);
  }

  private rowsOf(question: Question): number {
    return new Search(this.table, question).run().shown;
  }

  /** @returns rows that the change gives; it becomes a reason only if there are any */
  private offer(offer: Offer): number {
    const rows = this.rowsOf(changed(this.question, offer.change));
    if (rows > 0) this.reasons.push({ ...offer, rows });
    else this.vain.push(offer);
    return rows;
  }

  /** A text by itself, in some columns, with the question's settings, without pickers, other strands or effect. */
  private alone(text: string, reading: Question['strands'][0]['reading'], columns: readonly number[]): Search {
    const strands = [{ verb: 'find' as const, text, reading }];
    const { question } = this;
    const effect = 'show only matches';
    return new Search(this.table, {
      ...question,
      threaded: columns,
      pickers: [],
      strands,
      effect,
      flip: false,
      sort: [],
    }).run();
  }

  /** Keywords that are asked to be there, of strands that bring rows in or keep them. */
  private get placed(): Placed[] {
    const { strands, settings } = this.question;
    return strands.flatMap(({ verb, text, reading }, strand) =>
      verb === 'minus'
        ? []
        : parse(text, settings, this.named, reading)
            .keywords.filter(({ number }) => number > 0)
            .map((keyword) => ({ keyword, strand })),
    );
  }

  /** Columns by the names that may be seen. */
  private get named(): Table['columns'] {
    const seen = new Set(this.seen);
    return this.table.columns.map((column, i) => (seen.has(i) ? column : { name: '', kind: 'text' as const }));
  }

  /** @returns reasons, most useful first; a step before each search, so that the caller can stop in between */
  *steps(): Generator<void> {
    const { placed } = this;
    const found: Placed[] = [];
    for (const one of placed) {
      yield;
      if (this.alone(one.keyword.text, this.question.strands[one.strand].reading, this.question.threaded).matched > 0)
        found.push(one);
      else yield* this.explainMissing(one);
    }
    yield* this.explainSpaces(placed);
    yield* this.explainUnreadable();
    yield* this.explainPickers();
    yield* this.explainStrands();
    yield* this.explainSettings(placed.length);
    yield* this.explainDropping(placed, found);
    yield* this.explainTogether();
  }

  /** A keyword that is in no row, or only in rows of columns that are not threaded. */
  private *explainMissing({ keyword, strand }: Placed): Generator<void> {
    const { threaded, strands } = this.question;
    const { text } = keyword;
    const { reading } = strands[strand];
    const others = this.seen.filter((column) => !threaded.includes(column));
    const elsewhere = this.alone(text, reading, others);
    if (elsewhere.matched > 0) {
      const columns = hitColumns(elsewhere, others).sort((a, b) => b.rows - a.rows);
      if (columns.length > 0) {
        yield;
        const change: Change = { type: 'thread', columns: columns.map(({ column }) => column) };
        this.offer({ kind: 'other columns', change, keyword: text, strand, found: elsewhere.matched, columns });
        return;
      }
    }
    const bare = bareOf(keyword, reading, strands[strand].text);
    if (!bare) return;
    // A word may be looked for by a scope of its own, in columns that are not threaded.
    const scope = this.scopeOf(keyword, strand) ?? threaded;
    const tries = [
      ...sameLetters(this.table, scope, bare.text, TRIED).map((one) => ({ kind: 'signs' as const, text: one.text })),
      ...nearSpellings(this.table, scope, bare.text, TRIED).map((one) => ({
        kind: 'near spelling' as const,
        text: one.word,
      })),
    ];
    let signs = false;
    for (const { kind, text: folded } of tries) {
      yield;
      const offered = kind === 'signs' ? this.asWritten(folded, scope) : this.asTold(folded, scope);
      const found = this.alone(offered, 'plain text', scope).matched;
      if (found === 0) continue;
      const put = quoted(offered, reading);
      const change: Change = { type: 'replace', strand, start: bare.start, end: bare.end, text: put };
      this.offer({ kind, change, keyword: text, strand, text: offered, found });
      if (kind === 'signs') signs = true;
    }
    if (!signs && scope === threaded) yield* this.explainElsewhere(keyword, strand, bare, others);
  }

  /** A code typed with spaces in it: keywords side by side that are one in the table. */
  private *explainSpaces(placed: readonly Placed[]): Generator<void> {
    const { threaded, strands } = this.question;
    const tried = placed.length > 2 ? [[0, placed.length - 1]] : [];
    for (let i = 0; i + 1 < placed.length; i++) tried.push([i, i + 1]);
    for (const [from, to] of tried.slice(0, 2 * TRIED)) {
      const [first, last] = [placed[from], placed[to]];
      const typed = strands[first.strand].text.slice(first.keyword.start, last.keyword.end);
      // Only digits are typed with spaces that are not there.
      if (first.strand !== last.strand || strands[first.strand].reading !== 'words' || !/^[\p{N}\s-]+$/u.test(typed))
        continue;
      yield;
      for (const { text } of sameLetters(this.table, threaded, typed, 1)) {
        const found = this.alone(text, 'plain text', threaded).matched;
        const change: Change = {
          type: 'replace',
          strand: first.strand,
          start: first.keyword.start,
          end: last.keyword.end,
          text,
        };
        if (found > 0) this.offer({ kind: 'signs', change, keyword: typed, strand: first.strand, text, found });
      }
    }
  }

  /** A code with other signs that is only in columns that are not threaded: both are to be changed. */
  private *explainElsewhere(keyword: Keyword, strand: number, bare: Bare, others: readonly number[]): Generator<void> {
    const { reading } = this.question.strands[strand];
    for (const { text: folded } of sameLetters(this.table, others, bare.text, 1)) {
      yield;
      const text = this.asWritten(folded, others);
      const found = this.alone(text, 'plain text', others);
      const columns = hitColumns(found, others);
      const change: Change = {
        type: 'several',
        of: [
          { type: 'replace', strand, start: bare.start, end: bare.end, text: quoted(text, reading) },
          { type: 'thread', columns: columns.map(({ column }) => column) },
        ],
      };
      if (found.matched > 0)
        this.offer({ kind: 'signs', change, keyword: keyword.text, strand, text, found: found.matched, columns });
    }
  }

  /** Columns that a keyword looks in by its own scope; undefined if it looks in those that are threaded. */
  private scopeOf(keyword: Keyword, strand: number): readonly number[] | undefined {
    const { text, reading } = this.question.strands[strand];
    const { tree } = parse(text, this.question.settings, this.named, reading);
    const stack = tree ? [tree] : [];
    for (let node = stack.pop(); node; node = stack.pop()) {
      if (node.type === 'hit') {
        if (node.keyword === keyword.number) return node.columns;
      } else if (node.type === 'not') stack.push(node.of);
      else stack.push(...node.of);
    }
    return undefined;
  }

  /** As `asWritten`, where that matters; else as it is. */
  private asTold(folded: string, columns: readonly number[]): string {
    const { settings } = this.question;
    return settings.case === 'ignore' && settings.accents === 'ignore' ? folded : this.asWritten(folded, columns);
  }

  /** A folded text as some cell has it. */
  private asWritten(folded: string, columns: readonly number[]): string {
    const { settings } = this.question;
    const loose = { ...settings, case: 'ignore' as const, accents: 'ignore' as const, where: 'anywhere' as const };
    const strands = [{ verb: 'find' as const, text: folded, reading: 'plain text' as const }];
    const search = new Search(this.table, {
      ...this.question,
      settings: loose,
      threaded: columns,
      strands,
      pickers: [],
      effect: 'show only matches',
      flip: false,
      sort: [],
    }).run();
    const [place] = search.view.rows(0, 1);
    const [leaf] = search.leaves;
    if (!place || !leaf) return folded;
    for (const column of columns) {
      const cell = this.table.segments[place.segment].columns[column].cell(place.row);
      const [span] = leaf.plan.matcher.spans(cell);
      if (span) return cell.shown.slice(span.start, span.end);
    }
    return folded;
  }

  private *explainUnreadable(): Generator<void> {
    for (const [strand, { text, reading }] of this.question.strands.entries()) {
      const { notices, keywords } = parse(text, this.question.settings, this.named, reading);
      for (const { kind, message, start, end } of notices) {
        if (kind !== 'value' && kind !== 'name') continue;
        yield;
        // All of the item goes, not only the part of it that could not be read.
        const item = keywords.find((keyword) => keyword.start <= start && keyword.end >= end);
        const change: Change = {
          type: 'replace',
          strand,
          start: item?.start ?? start,
          end: item?.end ?? end,
          text: '',
        };
        this.offer({ kind: 'unreadable', strand, text: message, change });
      }
    }
  }

  private *explainPickers(): Generator<void> {
    for (const [picker, { column }] of this.question.pickers.entries()) {
      yield;
      // Who may not see a column is told nothing of it.
      if (this.seen.includes(column))
        this.offer({ kind: 'picker', change: { type: 'open', picker }, columns: [{ column, rows: 0 }] });
    }
  }

  private *explainStrands(): Generator<void> {
    for (const [strand, { verb, text }] of this.question.strands.entries()) {
      if ((verb !== 'minus' && verb !== 'within') || fold(text) === '') continue;
      yield;
      this.offer({ kind: 'strand', strand, text, change: { type: 'remove strand', strand } });
    }
  }

  private *explainSettings(keywords: number): Generator<void> {
    const { settings, strands } = this.question;
    const offers: Offer[] = [];
    if (settings.case === 'respect') offers.push({ kind: 'case', change: { type: 'ignore case' } });
    if (settings.accents === 'respect') offers.push({ kind: 'accents', change: { type: 'ignore accents' } });
    if (settings.where !== 'anywhere') offers.push({ kind: 'position', change: { type: 'match anywhere' } });
    for (const [strand, { reading, text }] of strands.entries()) {
      if (fold(text) === '') continue;
      if (reading !== 'words') offers.push({ kind: 'reading', strand, change: { type: 'read as words', strand } });
      else if (/[^\p{L}\p{N}\p{M}\s]/u.test(text))
        offers.push({ kind: 'reading', strand, change: { type: 'read as plain text', strand } });
    }
    if (settings.need === 'every word' && keywords > 1)
      offers.push({ kind: 'any word', change: { type: 'need any word' } });
    for (const offer of offers) {
      yield;
      this.offer(offer);
    }
  }

  /** Of several keywords: leave out the one without which most rows are left. */
  private *explainDropping(placed: readonly Placed[], found: readonly Placed[]): Generator<void> {
    if (placed.length < 2) return;
    let best: Reason | undefined;
    // Where some keyword is in no row, it is that one that is to go.
    for (const one of found.length === placed.length ? found : placed.filter((keyword) => !found.includes(keyword))) {
      yield;
      const { keyword, strand } = one;
      const change: Change = { type: 'replace', strand, start: keyword.start, end: keyword.end, text: '' };
      const rows = this.rowsOf(changed(this.question, change));
      // Each is found, so that they are not in one row is true.
      if (rows > (best?.rows ?? 0))
        best = {
          kind: 'one keyword',
          keyword: keyword.text,
          strand,
          change,
          rows,
          ...(found.length < placed.length && { found: 0 }),
        };
    }
    if (best) this.reasons.push(best);
  }

  /** Changes that give nothing by themselves, two at a time; and failing that, all that mend a keyword or open a picker. */
  private *explainTogether(): Generator<void> {
    const alone = this.reasons.length === 0;
    const tried = this.vain.filter(({ kind }) => alone || SETTLED.has(kind)).slice(0, PAIRED);
    for (let i = 0; i < tried.length; i++) {
      for (let j = i + 1; j < tried.length; j++) {
        if (tried[i].keyword !== undefined && sameKeyword(tried[i], tried[j])) continue;
        yield;
        this.offerTogether([tried[i], tried[j]]);
      }
    }
    if (this.reasons.length > 0) return;
    const mends = this.vain.filter((offer, i) => !this.vain.slice(0, i).some((before) => sameKeyword(before, offer)));
    for (const offers of [
      mends.filter(({ kind }) => kind === 'picker'),
      mends.filter(({ kind }) => kind !== 'picker'),
      mends,
    ]) {
      if (offers.length < 3) continue;
      yield;
      if (this.offerTogether(offers) > 0) return;
    }
  }

  private offerTogether(offers: readonly Offer[]): number {
    const change: Change = { type: 'several', of: offers.map((offer) => offer.change) };
    const rows = this.rowsOf(changed(this.question, change));
    const text = offers.map(({ kind }) => kind).join(', ');
    const columns = offers.flatMap((offer) => offer.columns ?? []);
    if (rows > 0) this.reasons.push({ kind: 'together', change, rows, text, ...(columns.length > 0 && { columns }) });
    return rows;
  }
}

/** Those of some columns that a search hits in, with the rows of each. */
function hitColumns({ columnTallies }: Search, among: readonly number[]): { column: number; rows: number }[] {
  return among.map((column) => ({ column, rows: columnTallies[column] })).filter(({ rows }) => rows > 0);
}

function sameKeyword(a: Offer, b: Offer): boolean {
  return a.keyword !== undefined && a.keyword === b.keyword && a.strand === b.strand;
}

/** The part of a keyword that near spellings and other signs can be found for; undefined for patterns and wildcards. */
function bareOf(keyword: Keyword, reading: Question['strands'][0]['reading'], strandText: string): Bare | undefined {
  const { start, end } = keyword;
  if (reading === 'plain text') {
    const text = strandText.slice(start, end);
    const from = start + text.length - text.trimStart().length;
    return { text: text.trim(), start: from, end: from + text.trim().length };
  }
  if (reading !== 'words') return undefined;
  // What is scoped, asked to be the whole cell, or quoted, is looked up without that.
  const match = /^(?:(?:"[^"]*"|[^\s":()]+):\s*)?[=~]?(?:["“”]([^"“”]*)["“”]?|([^\s"“”]*))$/su.exec(keyword.text);
  const text = match?.[1] ?? match?.[2] ?? keyword.text;
  if (/[*?/\\<>|]/.test(text) || text.trim() === '') return undefined;
  const from = start + keyword.text.lastIndexOf(text);
  const quoted = match?.[1] !== undefined;
  const before = quoted ? 1 : 0;
  return { text, start: from - before, end: Math.min(end, from + text.length + before) };
}

/** A text as a word, or in quotes where it would be read as something else. */
function quoted(text: string, reading: Question['strands'][0]['reading']): string {
  return reading === 'words' && !/^[\p{L}\p{N}\p{M}]+(?:[-_./#][\p{L}\p{N}\p{M}]+)*$/u.test(text) ? `"${text}"` : text;
}

/** The reasons worth giving: none twice; one near spelling a keyword, the one that gives most. */
function chosen(reasons: readonly Reason[]): Reason[] {
  const kept: Reason[] = [];
  const ordered = [...reasons].sort(
    (a, b) => KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind) || b.rows - a.rows || (b.found ?? 0) - (a.found ?? 0),
  );
  for (const reason of ordered) {
    const same = (one: Reason): boolean => JSON.stringify(one.change) === JSON.stringify(reason.change);
    const spelt = (one: Reason): boolean =>
      (one.kind === 'near spelling' || one.kind === 'signs') && one.kind === reason.kind && sameKeyword(one, reason);
    if (!kept.some((one) => same(one) || spelt(one))) kept.push(reason);
  }
  return kept.slice(0, MOST_REASONS);
}

/**
 * Reasons why a question shows no row, at most five, most useful first. A generator that rests between searches and
 * returns them at its end; stop asking and it is cancelled.
 */
export function* explainSteps(table: Table, question: Question): Generator<void, Reason[]> {
  const explainer = new Explainer(table, question);
  yield* explainer.steps();
  return chosen(explainer.reasons);
}

/** `explainSteps`, run to its end. */
export function explain(table: Table, question: Question): Reason[] {
  return finished(explainSteps(table, question));
}

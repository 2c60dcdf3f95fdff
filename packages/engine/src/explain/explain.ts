/**
 * Why nothing was found, and the way out. Each reason is a change to the question and the rows that the changed question
 * gives, found by asking it; so what is offered is what comes of it. Most of such a question has been answered before and
 * is remembered, which is what makes a dozen of them quick.
 *
 * Where no single change gives a row, pairs are tried, and then all that mends a keyword together.
 */
import { parse } from '../notation/index.js';
import type { Question } from '../search/index.js';
import { finished } from '../steps.js';
import type { Table } from '../store/index.js';
import { fold } from '../text/index.js';
import { Beside } from './beside.js';
import { changed, type RemedyChange } from './change.js';
import type { PlacedKeyword } from './keyword-text.js';
import { Missing } from './missing.js';
import { chosen, sameKeyword, type Offer, type Reason, type ObstacleKind } from './reason.js';

/** Changes that are tried in pairs: the first ones, so many. */
const PAIRED = 8;

/** Kinds of reasons that a box or its reader has settled: these are tried in pairs whatever else was found. */
const SETTLED: ReadonlySet<ObstacleKind> = new Set(['picker', 'strand', 'case', 'accents', 'position', 'reading']);

class Explainer {
  readonly reasons: Reason[] = [];
  /** Changes that give no row by themselves. */
  private readonly vain: Offer[] = [];
  private readonly missing: Missing;

  constructor(private readonly beside: Beside) {
    this.missing = new Missing(beside, (offer) => this.offer(offer));
  }

  /** @returns rows that the change gives; it becomes a reason only if there are any */
  private offer(offer: Offer): number {
    const rows = this.beside.rowsOf(changed(this.beside.question, offer.change));
    if (rows > 0) this.reasons.push({ ...offer, rows });
    else this.vain.push(offer);
    return rows;
  }

  /** @returns reasons, most useful first; a step before each search, so that the caller can stop in between */
  *steps(): Generator<void> {
    const { placed, question } = this.beside;
    const found: PlacedKeyword[] = [];
    for (const one of placed) {
      yield;
      const { reading } = question.strands[one.strand];
      if (this.beside.alone(one.keyword.text, reading, question.threaded).matched > 0) found.push(one);
      else yield* this.missing.keyword(one);
    }
    yield* this.missing.spaces(placed);
    yield* this.explainUnreadable();
    yield* this.explainPickers();
    yield* this.explainStrands();
    yield* this.explainSettings(placed.length);
    yield* this.explainDropping(placed, found);
    yield* this.explainTogether();
  }

  private *explainUnreadable(): Generator<void> {
    for (const [strand, { text, reading }] of this.beside.question.strands.entries()) {
      const { notices, keywords } = parse(text, this.beside.question.settings, this.beside.named, reading);
      for (const { kind, message, start, end } of notices) {
        if (kind !== 'value' && kind !== 'name') continue;
        yield;
        // All of the item goes, not only the part of it that could not be read.
        const item = keywords.find((keyword) => keyword.start <= start && keyword.end >= end);
        const change: RemedyChange = {
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
    for (const [picker, { column }] of this.beside.question.pickers.entries()) {
      yield;
      // Who may not see a column is told nothing of it.
      if (this.beside.seen.includes(column))
        this.offer({ kind: 'picker', change: { type: 'open', picker }, columns: [{ column, rows: 0 }] });
    }
  }

  private *explainStrands(): Generator<void> {
    for (const [strand, { verb, text }] of this.beside.question.strands.entries()) {
      if ((verb !== 'minus' && verb !== 'within') || fold(text) === '') continue;
      yield;
      this.offer({ kind: 'strand', strand, text, change: { type: 'remove strand', strand } });
    }
  }

  private *explainSettings(keywords: number): Generator<void> {
    const { settings, strands } = this.beside.question;
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

  /** Offers to leave out the one of several keywords without which most rows are left. */
  private *explainDropping(placed: readonly PlacedKeyword[], found: readonly PlacedKeyword[]): Generator<void> {
    if (placed.length < 2) return;
    let best: Reason | undefined;
    // Where some keyword is in no row, it is that one that is to go.
    for (const one of found.length === placed.length ? found : placed.filter((keyword) => !found.includes(keyword))) {
      yield;
      const { keyword, strand } = one;
      const change: RemedyChange = { type: 'replace', strand, start: keyword.start, end: keyword.end, text: '' };
      const rows = this.beside.rowsOf(changed(this.beside.question, change));
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
    const change: RemedyChange = { type: 'several', of: offers.map((offer) => offer.change) };
    const rows = this.beside.rowsOf(changed(this.beside.question, change));
    const text = offers.map(({ kind }) => kind).join(', ');
    const columns = offers.flatMap((offer) => offer.columns ?? []);
    if (rows > 0) this.reasons.push({ kind: 'together', change, rows, text, ...(columns.length > 0 && { columns }) });
    return rows;
  }
}

/**
 * Reasons why a question shows no row, at most five, most useful first. A generator that rests between searches and
 * returns them at its end; stop asking and it is cancelled.
 */
export function* explainSteps(table: Table, question: Question): Generator<void, Reason[]> {
  const explainer = new Explainer(new Beside(table, question));
  yield* explainer.steps();
  return chosen(question, explainer.reasons);
}

/** `explainSteps`, run to its end. */
export function explain(table: Table, question: Question): Reason[] {
  return finished(explainSteps(table, question));
}

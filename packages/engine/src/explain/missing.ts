/** Keywords that are in no row: as they may have been meant, and where they are. */
import type { Keyword } from '../notation/index.js';
import { hitColumns, type Beside } from './beside.js';
import type { RemedyChange } from './change.js';
import { bareOf, quoted, type Bare, type PlacedKeyword } from './keyword-text.js';
import { nearSpellings } from './near-spellings.js';
import type { Offer } from './reason.js';
import { sameLetters } from './without-signs.js';

/** Near spellings, and texts with other signs, tried for one keyword. */
const TRIED = 3;

export class Missing {
  constructor(
    private readonly beside: Beside,
    /** Tries a change, which becomes a reason if it gives rows. */
    private readonly offer: (offer: Offer) => number,
  ) {}

  /** A keyword that is in no row, or only in rows of columns that are not threaded. */
  *keyword({ keyword, strand }: PlacedKeyword): Generator<void> {
    const { threaded, strands } = this.beside.question;
    const { text } = keyword;
    const { reading } = strands[strand];
    const others = this.beside.seen.filter((column) => !threaded.includes(column));
    const elsewhere = this.beside.alone(text, reading, others);
    if (elsewhere.matched > 0) {
      const columns = hitColumns(elsewhere, others).sort((a, b) => b.rows - a.rows);
      if (columns.length > 0) {
        yield;
        const change: RemedyChange = { type: 'thread', columns: columns.map(({ column }) => column) };
        this.offer({ kind: 'other columns', change, keyword: text, strand, found: elsewhere.matched, columns });
        return;
      }
    }
    const bare = bareOf(keyword, reading, strands[strand].text);
    if (!bare) return;
    // A word may be looked for by a scope of its own, in columns that are not threaded.
    const scope = this.beside.scopeOf(keyword, strand) ?? threaded;
    const { table } = this.beside;
    const signed = yield* sameLetters(table, scope, bare.text, TRIED);
    const near = yield* nearSpellings(table, scope, bare.text, TRIED);
    const tries = [
      ...signed.map((one) => ({ kind: 'signs' as const, text: one.text })),
      ...near.map((one) => ({ kind: 'near spelling' as const, text: one.word })),
    ];
    let signs = false;
    for (const { kind, text: folded } of tries) {
      yield;
      const offered = kind === 'signs' ? this.beside.asWritten(folded, scope) : this.beside.asTold(folded, scope);
      const found = this.beside.alone(offered, 'plain text', scope).matched;
      if (found === 0) continue;
      const put = quoted(offered, reading);
      const change: RemedyChange = { type: 'replace', strand, start: bare.start, end: bare.end, text: put };
      this.offer({ kind, change, keyword: text, strand, text: offered, found });
      if (kind === 'signs') signs = true;
    }
    if (!signs && scope === threaded) yield* this.elsewhere(keyword, strand, bare, others);
  }

  /** A code typed with spaces in it: keywords side by side that are one in the table. */
  *spaces(placed: readonly PlacedKeyword[]): Generator<void> {
    const { threaded, strands } = this.beside.question;
    const tried = placed.length > 2 ? [[0, placed.length - 1]] : [];
    for (let i = 0; i + 1 < placed.length; i++) tried.push([i, i + 1]);
    for (const [from, to] of tried.slice(0, 2 * TRIED)) {
      const [first, last] = [placed[from], placed[to]];
      const typed = strands[first.strand].text.slice(first.keyword.start, last.keyword.end);
      // Only digits are typed with spaces that are not there.
      if (first.strand !== last.strand || strands[first.strand].reading !== 'words' || !/^[\p{N}\s-]+$/u.test(typed))
        continue;
      yield;
      for (const { text } of yield* sameLetters(this.beside.table, threaded, typed, 1)) {
        const found = this.beside.alone(text, 'plain text', threaded).matched;
        const change: RemedyChange = {
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
  private *elsewhere(keyword: Keyword, strand: number, bare: Bare, others: readonly number[]): Generator<void> {
    const { reading } = this.beside.question.strands[strand];
    for (const { text: folded } of yield* sameLetters(this.beside.table, others, bare.text, 1)) {
      yield;
      const text = this.beside.asWritten(folded, others);
      const found = this.beside.alone(text, 'plain text', others);
      const columns = hitColumns(found, others);
      const change: RemedyChange = {
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
}

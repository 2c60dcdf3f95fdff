/** The question that shows nothing, and what is asked beside it to see why. */
import { parse, type Keyword, type NamedColumn, type TextReading } from '../notation/index.js';
import { namedColumns, Search, type Question } from '../search/index.js';
import type { Table } from '../store/index.js';
import type { PlacedKeyword } from './keyword-text.js';

export class Beside {
  /** Columns that may be seen. */
  readonly seen: readonly number[];

  constructor(
    readonly table: Table,
    readonly question: Question,
  ) {
    this.seen = question.visible ?? table.columns.map((_, i) => i);
  }

  /** Rows on show of a question. */
  rowsOf(question: Question): number {
    return new Search(this.table, question).run().shown;
  }

  /** A text by itself, in some columns, without pickers, other strands or effect. */
  alone(text: string, reading: TextReading, columns: readonly number[], settings = this.question.settings): Search {
    const strands = [{ verb: 'find' as const, text, reading }];
    const { question } = this;
    const effect = 'show only matches';
    return new Search(this.table, {
      ...question,
      settings,
      threaded: columns,
      pickers: [],
      strands,
      effect,
      flip: false,
      sort: [],
    }).run();
  }

  /** Keywords that are asked to be there, of strands that bring rows in or keep them. */
  get placed(): PlacedKeyword[] {
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
  get named(): readonly NamedColumn[] {
    return namedColumns(this.table, this.seen);
  }

  /** Columns that a keyword looks in by its own scope; undefined if it looks in those that are threaded. */
  scopeOf(keyword: Keyword, strand: number): readonly number[] | undefined {
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

  /** Does what `asWritten` does, where that matters; else as it is. */
  asTold(folded: string, columns: readonly number[]): string {
    const { settings } = this.question;
    return settings.case === 'ignore' && settings.accents === 'ignore' ? folded : this.asWritten(folded, columns);
  }

  /** A folded text as some cell has it. */
  asWritten(folded: string, columns: readonly number[]): string {
    const { settings } = this.question;
    const loose = { ...settings, case: 'ignore' as const, accents: 'ignore' as const, where: 'anywhere' as const };
    const search = this.alone(folded, 'plain text', columns, loose);
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
}

/** The columns among some that a search hits in, with the rows of each. */
export function hitColumns({ columnTallies }: Search, among: readonly number[]): { column: number; rows: number }[] {
  return among.map((column) => ({ column, rows: columnTallies[column] })).filter(({ rows }) => rows > 0);
}

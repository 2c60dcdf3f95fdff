/** Looks on while questions are answered: how long each takes, by its kind, and which took long. Of what was typed only its shape is told. */
import type { SearchRequest } from '@usual-needle/contract';
import type { Logger } from 'pino';

export type QuestionKind = 'search' | 'explain' | 'offers' | 'next' | 'take out';

/** A question that takes longer than this, in milliseconds, is logged. */
const SLOW_MS = 1_000;

/** The shape of a question: how much was asked, and in which ways, without a letter of it. */
export function shapeOf(request: Pick<SearchRequest, 'question'> & { offset?: number; limit?: number }): object {
  const { question, offset, limit } = request;
  const { strands = [], pickers = [], sort = [], threaded = [], flip } = question;
  return {
    strands: strands.map(({ verb, text, reading }) => ({ verb, reading, letters: text.length })),
    columns: threaded.length,
    pickers: pickers.length,
    sort: sort.length,
    ...{ flip, offset, limit },
  };
}

export class Watch {
  /** Told of each question that was answered. */
  heard: ((kind: QuestionKind, seconds: number) => void) | undefined;

  constructor(private readonly log: Logger) {}

  async over<T>(
    kind: QuestionKind,
    table: number,
    request: Pick<SearchRequest, 'question'>,
    answer: () => Promise<T>,
  ): Promise<T> {
    const begun = performance.now();
    try {
      return await answer();
    } finally {
      const ms = performance.now() - begun;
      this.heard?.(kind, ms / 1_000);
      if (ms > SLOW_MS) this.log.warn({ kind, table, ms: Math.round(ms), shape: shapeOf(request) }, 'slow question');
    }
  }
}

import type { SearchRequest } from './search.js';

/**
 * Searches over a standing connection: a WebSocket at /api/standing. A keystroke's question and answer are one small message
 * each way, which is quicker than a request of its own. Every question can be put by HTTP just as well.
 */
export interface StandingQuestion {
  /** Told again in the reply. */
  readonly id: number;
  /** The number of a table; or, in its place, a box by its slug, as its readers ask. */
  readonly table?: number;
  readonly box?: string;
  readonly request: SearchRequest;
}

/** Questions that one message may put, as an array; each is answered by itself, and several replies may come in one message, a line each: `id`, a space, `200` or another status, a space, and the JSON of the answer or of a problem. */
export const STANDING_QUESTIONS_LIMIT = 200;

export const STANDING_PATH = '/api/standing';

/** Largest message a client may send, in bytes. */
export const STANDING_MESSAGE_LIMIT = 256 * 1024;

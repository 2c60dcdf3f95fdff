import type { Clash } from './edit.js';
import type { RefreshClash } from './table.js';

/** An error on the wire: RFC 9457, Problem Details for HTTP APIs. */
export interface Problem {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly detail?: string;
  /** Line of a file that the problem is at, from 1. */
  readonly line?: number;
  /** The first clashes of an edit, or of a refresh, that is refused, and how many there are. */
  readonly clashes?: readonly (Clash | RefreshClash)[];
  readonly clashing?: number;
  /** True if a part of a change that cannot be undone whole still can be. */
  readonly part?: boolean;
}

export const PROBLEM_TYPE = 'application/problem+json';

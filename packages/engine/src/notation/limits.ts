/** The limits of the notation. Each has its own message; none is met in silence. */
export const LIMITS = {
  /** UTF-16 units of one strand's text. */
  strandText: 2_000,
  /** UTF-16 units of one pattern. */
  pattern: 1_000,
  /** Keywords in one strand. */
  keywords: 64,
  /** Strands in one search. */
  strands: 16,
  /** Largest counted repeat in a pattern. */
  repeat: 1_000,
  /** Instructions of all patterns and wildcards of one search. */
  instructions: 60_000,
} as const;

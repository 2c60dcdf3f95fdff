/** Settings of any kind, for the specs that ask at random. */
import fc from 'fast-check';

export const wheres = fc.constantFrom(
  'anywhere' as const,
  'start of a word' as const,
  'whole word' as const,
  'start of the cell' as const,
  'end of the cell' as const,
  'whole cell' as const,
);
export const cares = fc.constantFrom('ignore' as const, 'respect' as const);

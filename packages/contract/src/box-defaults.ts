import type { Box } from './box.js';

/** The settings of a box that does not say otherwise: the one place where defaults stand. */
export const BOX_DEFAULTS = {
  reading: 'words',
  need: 'every word',
  where: 'anywhere',
  case: 'ignore',
  accents: 'ignore',
  effect: 'show only matches',
  grain: 'cells',
  nothingTyped: 'every row',
  searches: 'at each keystroke',
  edited: 'moves',
  flip: false,
} as const satisfies Partial<Box>;

export const EMPTY_BOX: Box = { format: 'usual-needle box', version: 1 };

export { LAST_CODE_POINT, normalRanges, otherRanges, type CodeRange } from './code-ranges.js';
export * from './columns.js';
export * from './limits.js';
export * from './parse.js';
export * from './pattern-syntax.js';
export * from './tree.js';
export { comparison, range, type Comparison } from './values.js';

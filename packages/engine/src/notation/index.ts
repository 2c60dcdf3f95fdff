export * from './columns.js';
export * from './limits.js';
export * from './parse.js';
export * from './pattern-syntax.js';
export * from './tree.js';
export { comparison, range, type Comparison } from './values.js';

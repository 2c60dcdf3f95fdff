export * from './question.js';
export * from './search.js';
export * from './window.js';
export type { Filter, Matcher } from './matcher.js';
export * from './by-name.js';
export * from './trace.js';

export * from './question.js';
export * from './search.js';
export * from './window.js';
export type { Filter, Matcher } from './matcher.js';
export * from './by-name.js';
export * from './trace.js';
export type { Picker } from './picker-matchers.js';
export * from './value-counts.js';
export * from './view.js';

export * from './collation.js';
export * from './permutation.js';
export * from './ranks.js';
export * from './sort-keys.js';

export * from './collation.js';
export * from './order.js';
export * from './permutation.js';
export * from './ranks.js';
export * from './sort-keys.js';

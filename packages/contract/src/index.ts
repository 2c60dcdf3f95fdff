export * from './box.js';
export * from './column.js';
export * from './problem.js';
export * from './search.js';
export * from './table.js';
export * from './keeping.js';
export * from './live.js';

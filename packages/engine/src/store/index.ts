export * from './bits.js';
export * from './cell.js';
export * from './column-segment.js';
export * from './kinds.js';
export * from './segment.js';
export * from './table.js';
export * from './text-pool.js';
export * from './vocabulary.js';

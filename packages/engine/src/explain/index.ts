export * from './change.js';
export * from './explain.js';
export * from './near-spellings.js';
export * from './without-signs.js';

export * from './notation/index.js';
export * from './search/index.js';
export * from './store/index.js';
export * from './text/index.js';

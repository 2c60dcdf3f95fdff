export * from './automaton/index.js';
export * from './borrow/index.js';
export * from './explain/index.js';
export * from './notation/index.js';
export * from './order/index.js';
export * from './search/index.js';
export * from './store/index.js';
export * from './text/index.js';

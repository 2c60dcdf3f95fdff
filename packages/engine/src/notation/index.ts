export * from './limits.js';
export * from './parse.js';
export * from './tree.js';

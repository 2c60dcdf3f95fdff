export * from './blank.js';
export * from './characters.js';
export * from './fold.js';
export * from './graphemes.js';
export * from './key.js';
export * from './values.js';
export * from './words.js';
export * from './own-text.js';

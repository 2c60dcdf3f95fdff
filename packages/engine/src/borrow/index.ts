export * from './lender.js';
export * from './overlap.js';

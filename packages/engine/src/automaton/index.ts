export * from './compile-pattern.js';
export * from './compile-wildcard.js';
export * from './dfa.js';
export { MATCHED, OVERGROWN } from './lazy-states.js';
export * from './literals.js';
export * from './marker.js';
export * from './near.js';
export { spend, TimeIsUp, within } from './pace.js';
export { Budget, PROGRAM_LIMIT, TooLarge, type Program } from './program.js';

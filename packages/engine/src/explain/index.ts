export * from './change.js';
export * from './explain.js';
export { MOST_REASONS, type Reason, type ObstacleKind } from './reason.js';
export * from './near-spellings.js';
export * from './without-signs.js';

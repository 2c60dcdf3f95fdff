export { Host } from './host.js';
export { bestOf, type ColumnKeys, type OtherTable } from './pairings.js';
export { wireReason } from './answer.js';
export { answered, answerIn, MISSING, NoAnswer, OVERTAKEN, refusedQuestion, type Outcome } from './outcome.js';
export type { Bytes } from './searches.js';
export type { TakingOut } from './taking-out.js';
export { PackReader, type PackWriter } from '@usual-needle/engine';
// What whoever reads a question from elsewhere than a screen has to know of the notation.
export { ANSWERS, columnNamed, writtenDigits } from '@usual-needle/engine';

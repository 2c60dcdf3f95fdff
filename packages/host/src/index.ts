export { StillLoading, type HostProgress } from './holding.js';
export { Host } from './host.js';
export { bestOf, type ColumnKeys, type OtherTable } from './pairings.js';
export { wireReason } from './answer.js';
export { OutOfScope, questionIn } from './scoped.js';
export { PackReader, type PackWriter } from '@usual-needle/engine';
// What a question can be refused for, and what whoever reads one from elsewhere than a screen has to know of the notation.
export { ANSWERS, columnNamed, writtenDigits, UnknownColumn, UnreadablePicker } from '@usual-needle/engine';

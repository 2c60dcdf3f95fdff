/** The exports that a server needs before anybody brings a file in: nothing that reads one, so that a start does not wait for it. */
export { FileProblem } from './problem.js';
export { csvLine } from './csv/write.js';
export { FILE_TYPES, type Hints } from './sniff.js';
export { FORMS } from './forms.js';
export { markedPieces } from './marked-pieces.js';
export type { Taken } from './taken.js';

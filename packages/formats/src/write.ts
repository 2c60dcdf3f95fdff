/** The exports that whoever writes rows needs, and nothing that reads a file. */
export type { Taken, Writer } from './taken.js';
export { misfitOf, WRITERS } from './write-rows.js';

/** How an automaton reads the chunks of a column. */
import { Dfa, MATCHED, OVERGROWN } from '../automaton/index.js';
import { FACE_BREAK_CHUNK, type ChunkPool, type Chunks } from '../store/index.js';

/** In place of a state of the automaton: the value has to be asked as a whole, cell by cell. */
export const NO_STATE = OVERGROWN;

/** A chunk's form, and where in it characters of the shown text begin, if that may matter: see `Dfa.runText`. */
export interface ChunkForm {
  readonly text: string;
  readonly starts?: Uint8Array;
}

export interface ChunkReading {
  /** What each ASCII unit is read as: see `Dfa.lettersOf`. */
  readonly letters: Uint16Array;
  /** Chunks with this trait are read unit by unit, as they are stored. */
  readonly trait: number;
  /** The form of any other chunk; undefined if the value must be looked at as a whole. */
  readonly form: (chunk: string) => ChunkForm | undefined;
  /** Whether spaces at the end of a text are not read. */
  readonly trimmed: boolean;
}

/**
 * The automaton's states after chunks of a segment alone, in one go.
 * @returns by place in the pool, of those that are read unit by unit; undefined if the automaton has begun anew meanwhile
 */
export function readOwn(
  dfa: Dfa,
  { letters, trait }: ChunkReading,
  own: ChunkPool,
  state: number,
): Int32Array | undefined {
  const reached = new Int32Array(own.size);
  return dfa.runEach(own, letters, state, own.traits, trait, reached) ? reached : undefined;
}

/** The automaton's state after a chunk; MATCHED or NO_STATE. */
export function readChunk(dfa: Dfa, reading: ChunkReading, chunks: Chunks, state: number, chunk: number): number {
  if (chunk === FACE_BREAK_CHUNK) return dfa.matchesAtEnd(state) ? MATCHED : Dfa.START;
  const pool = chunks.poolOf(chunk);
  const at = chunk - pool.first;
  if ((pool.traits[at] & reading.trait) !== 0)
    return dfa.run(pool.units, pool.starts[at], pool.starts[at + 1] - 1, state, reading.letters);
  const form = reading.form(pool.at(chunk));
  return form ? dfa.runText(form.text, state, form.starts) : NO_STATE;
}

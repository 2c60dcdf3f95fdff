/** How an automaton reads the chunks of a column. */
import { Dfa, MATCHED, OVERGROWN } from '../../automaton/index.js';
import { FACE_BREAK_CHUNK, type ChunkPool, type Chunks } from '../../store/index.js';

/** Stands in place of a state of the automaton where the value has to be asked as a whole, cell by cell. */
export const NO_STATE = OVERGROWN;

/** A chunk's form, and where in it characters of the shown text begin, if that may matter: see `Dfa.runText`. */
export interface ChunkForm {
  readonly text: string;
  readonly starts?: Uint8Array;
}

/** Forms of chunks by place in their pool. */
export type Forms = ReadonlyMap<number, ChunkForm | undefined>;

export interface ChunkReading {
  /** The reading's name, the same for readings whose forms are the same. */
  readonly key: string;
  /** The letter that each ASCII unit is read as: see `Dfa.lettersOf`. */
  readonly letters: Uint16Array;
  /** Chunks with this trait are read unit by unit, as they are stored. */
  readonly trait: number;
  /** The form of any other chunk; undefined if the value must be looked at as a whole. */
  readonly form: (chunk: string) => ChunkForm | undefined;
  /** Whether spaces at the end of a text are not read. */
  readonly trimmed: boolean;
}

/** Forms of a pool that are kept for the next who asks: finding them takes longer than reading them. */
const FEW_FORMS = 2_048;
/** Kinds of readings whose forms are kept. */
const FEW_READINGS = 4;
const known = new WeakMap<ChunkPool, Map<string, Forms>>();
/** Forms by chunk, of each kind of reading: much the same chunks come in every segment. */
const found = new Map<string, Map<string, ChunkForm | undefined>>();
const MOST_FOUND = 8_192;
/** Letters of such a chunk. V8 copies so short a text; a longer one would keep all that it was cut from, of tables long gone. */
const FEW_LETTERS = 12;

function formOf(
  chunk: string,
  form: ChunkReading['form'],
  kept: Map<string, ChunkForm | undefined>,
): ChunkForm | undefined {
  if (chunk.length > FEW_LETTERS) return form(chunk);
  const same = kept.get(chunk);
  if (same || kept.has(chunk)) return same;
  if (kept.size === MOST_FOUND) kept.clear();
  const made = form(chunk);
  kept.set(chunk, made);
  return made;
}

/** Gives what is kept under a key, which is made if there is nothing; others are dropped where there are too many. */
function keptOf<T>(all: Map<string, T>, key: string, make: () => T): T {
  let one = all.get(key);
  if (one === undefined) {
    if (all.size === FEW_READINGS) all.clear();
    all.set(key, (one = make()));
  }
  return one;
}

/** The forms of all chunks of a pool that are not read unit by unit. */
export function formsOf(pool: ChunkPool, { key, trait, form }: ChunkReading): Forms {
  let kept = known.get(pool);
  if (!kept) known.set(pool, (kept = new Map()));
  const forms = kept.get(key);
  if (forms) return forms;
  const { traits, first, size } = pool;
  const alike = keptOf(found, key, () => new Map<string, ChunkForm | undefined>());
  const made = new Map<number, ChunkForm | undefined>();
  for (let i = 0; i < size; i++) if ((traits[i] & trait) === 0) made.set(i, formOf(pool.at(first + i), form, alike));
  if (made.size <= FEW_FORMS) keptOf(kept, key, () => made);
  return made;
}

/** Where the chunks of a pool lead to from a state. */
export interface Reached {
  readonly from: number;
  /** The states that chunks lead to, by place in the pool; anything where a chunk is not read unit by unit. */
  readonly states: Int32Array;
  /** If they are few, the places of all that may lead elsewhere than to `from`; those that have forms come apart. */
  readonly moved?: Uint32Array;
  /** If they are few, the places of all that may lead elsewhere than after a closed one; see `ChunkClasses`. */
  readonly parted?: Uint32Array;
}

/**
 * The places of all chunks that are read unit by unit and may lead elsewhere from a state than to itself, or than they lead from
 * another; some of those that are not read so may come among them.
 * @param most how many there may be @returns undefined if there are more
 */
export function placesMoved(
  dfa: Dfa,
  { letters }: ChunkReading,
  pool: ChunkPool,
  most: number,
  from: number,
  other?: number,
): Uint32Array | undefined {
  const moving = dfa.moving(from, letters, pool.unitGroups, other);
  // Once the two lead to the same they do so to the end.
  return other === undefined ? pool.byGroup.having(moving, most) : pool.byGroup.beginning(moving, most);
}

/**
 * Does what `readPool` does, of the chunks at some places only; stops where the automaton begins anew, and then nothing that was written
 * means anything.
 * @param states written to
 */
export function readSome(
  dfa: Dfa,
  { letters, trait }: ChunkReading,
  { units, starts, traits }: ChunkPool,
  from: number,
  some: Uint32Array,
  states: Int32Array,
): void {
  const { generation } = dfa;
  for (const i of some) {
    if ((traits[i] & trait) !== 0) states[i] = dfa.run(units, starts[i], starts[i + 1] - 1, from, letters);
    if (dfa.generation !== generation) return;
  }
}

/**
 * The automaton's states after all chunks of a pool, in one go.
 * @param beside what is known from another state
 * @param states in which they are put
 * @returns undefined if the automaton has begun anew meanwhile
 */
export function readPool(
  dfa: Dfa,
  { letters, trait }: ChunkReading,
  pool: ChunkPool,
  from: number,
  beside?: Reached,
  states: Int32Array = new Int32Array(pool.size),
): Reached | undefined {
  if (beside) states.set(beside.states);
  return dfa.runEach(pool, letters, from, pool.traits, trait, states, beside?.from) ? { from, states } : undefined;
}

/** The form of a chunk that is not read unit by unit. */
export function formAt(pool: ChunkPool, chunk: number, { key, form }: ChunkReading): ChunkForm | undefined {
  return formOf(
    pool.at(chunk),
    form,
    keptOf(found, key, () => new Map<string, ChunkForm | undefined>()),
  );
}

/** The automaton's state after a form. */
export function readForm(dfa: Dfa, form: ChunkForm | undefined, state: number): number {
  return form ? dfa.runText(form.text, state, form.starts) : NO_STATE;
}

/** The automaton's state after a chunk; MATCHED or NO_STATE. */
export function readChunk(dfa: Dfa, reading: ChunkReading, chunks: Chunks, state: number, chunk: number): number {
  if (chunk === FACE_BREAK_CHUNK) return dfa.matchesAtEnd(state) ? MATCHED : Dfa.START;
  const pool = chunks.poolOf(chunk);
  const at = chunk - pool.first;
  if ((pool.traits[at] & reading.trait) !== 0)
    return dfa.run(pool.units, pool.starts[at], pool.starts[at + 1] - 1, state, reading.letters);
  return readForm(dfa, reading.form(pool.at(chunk)), state);
}

/** Where chunks lead an automaton from a state: read all in one go, or only those that may lead elsewhere than the others. */
import type { Dfa } from '../../automaton/index.js';
import { SHARED_CHUNKS, type ChunkPool } from '../../store/index.js';
import {
  type ChunkReading,
  type Forms,
  NO_STATE,
  placesMoved,
  type Reached,
  readForm,
  readPool,
  readSome,
} from './chunk-reading.js';

/** If no more than one chunk in so many may lead elsewhere than all others, these are read by themselves. */
const FEW_MOVE = 4;

export function joined(some: Uint32Array, others: ArrayLike<number>): Uint32Array {
  const all = new Uint32Array(some.length + others.length);
  all.set(some);
  all.set(others, some.length);
  return all;
}

export class ChunkPaths {
  private readonly generation: number;
  /** Room for the chunks of one segment after the other. */
  private readonly rooms: Int32Array[] = [];

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.generation = dfa.generation;
  }

  /** False once the automaton has begun anew: then the states that are known mean nothing. */
  get current(): boolean {
    return this.generation === this.dfa.generation;
  }

  /**
   * If they are few, the places of the chunks that may lead elsewhere than to the state itself.
   * @returns undefined, too, if the automaton has begun anew
   */
  moved(pool: ChunkPool, state: number, most = Infinity): Uint32Array | undefined {
    if (!this.current) return undefined;
    return placesMoved(this.dfa, this.reading, pool, Math.min(most, this.few(pool)), state);
  }

  /** Tells how many of a pool's chunks are few enough to be read by themselves: all that have forms are. */
  private few(pool: ChunkPool): number {
    return pool.size / FEW_MOVE - pool.countLacking(this.reading.trait);
  }

  /**
   * Finds where each chunk of a pool leads to from a state; NO_STATE of one that has no form.
   * @param known what is known already, after a closed chunk first; added to
   * @param moved as `moved` says, if it was asked
   * @returns undefined if the automaton has begun anew
   */
  reached(pool: ChunkPool, forms: Forms, state: number, known: Reached[], moved?: Uint32Array): Reached | undefined {
    if (!this.current) return undefined;
    const same = known.find(({ from }) => from === state);
    if (same) return same;
    const reached = this.read(pool, forms, state, this.room(pool, known.length), known[0], moved);
    if (!reached) return undefined;
    for (const [i, form] of forms) reached.states[i] = this.current ? readForm(this.dfa, form, state) : NO_STATE;
    if (!this.current) return undefined;
    known.push(reached);
    return reached;
  }

  /** Does what `reached` does, of the chunks that are read unit by unit. @param closed what is known after a closed chunk */
  private read(
    pool: ChunkPool,
    forms: Forms,
    state: number,
    states: Int32Array,
    closed: Reached | undefined,
    moved: Uint32Array | undefined,
  ): Reached | undefined {
    const { dfa, reading } = this;
    const some = (places: Uint32Array): Uint32Array => {
      readSome(dfa, reading, pool, state, places, states);
      return forms.size === 0 ? places : joined(places, [...forms.keys()]);
    };
    const parted = closed && placesMoved(dfa, reading, pool, this.few(pool), state, closed.from);
    if (!this.current) return undefined;
    if (parted) {
      states.set(closed.states);
      return { from: state, states, parted: some(parted) };
    }
    // To find out what parts, or moves, may have made states.
    const few = moved ?? this.moved(pool, state);
    if (!this.current) return undefined;
    if (!few) return readPool(dfa, reading, pool, state, closed, states);
    states.fill(state);
    return { from: state, states, moved: some(few) };
  }

  /** Gives the room where it is put what a pool's chunks lead to from one state more: that of shared chunks is kept. */
  private room({ first, size }: ChunkPool, place: number): Int32Array {
    if (first < SHARED_CHUNKS) return new Int32Array(size);
    const room = this.rooms[place];
    return (room?.length >= size ? room : (this.rooms[place] = new Int32Array(2 * size))).subarray(0, size);
  }
}

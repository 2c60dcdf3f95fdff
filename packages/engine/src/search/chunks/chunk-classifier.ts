/**
 * Verdicts on values by single chunks of theirs. Most hits lie within a word, and most chunks have no part in any:
 * so an automaton needs to be led through few values only.
 */
import type { Dfa } from '../../automaton/index.js';
import {
  clearedBeginning,
  SHARED_CHUNKS,
  wholeBytes,
  type ChunkHolders,
  type ChunkPool,
  type Chunks,
  type WholeBytes,
} from '../../store/index.js';
import type { ChunkReading } from './chunk-reading.js';
import { ChunkClasses, LATER, LATER_OPEN, type Classified } from './chunk-classes.js';
import { Said, tell } from './verdicts.js';

/** If one in so many chunks, or more, heeds what others lead to, values are sooner read than told. */
const FEW_HEED = 5;

/** The verdict on a chunk by the class that it is of. */
const SAID = Uint8Array.from({ length: LATER }, (_, verdict) => verdict);
/** The verdicts by class where it is not told which chunks heed: whatever leads is open. See `SAID`. */
const SAID_SHORT = SAID.map((verdict) => ((verdict & Said.leads) !== 0 ? Said.open : verdict & ~Said.heeds));

/** The verdicts of all chunks of each value; kept from call to call, since there are many values. */
let gathered = wholeBytes(0);

/** The verdicts that a classifier finds of chunks: of those that segments share, and of the segment's own if they were looked at. */
export interface ClassesFound {
  readonly shared: Classified;
  readonly own: Classified | undefined;
}

/** Chunks of one pool, at places of the holders. */
interface PoolClasses {
  readonly classified: Classified;
  /** Number of the pool's first chunk. */
  readonly first: number;
  readonly from: number;
  readonly to: number;
}

/** Tells whether each of the last chunks comes in one value: those of a segment alone mostly do. */
function comeOnce({ starts, values }: ChunkHolders, { from, to }: PoolClasses): boolean {
  return values.length - starts[from] === to - from;
}

/** Tells how many chunks in the values heed what others lead to. */
function countHeeding(holders: ChunkHolders, part: PoolClasses): number {
  const { chunks, starts } = holders;
  const { classified, first, from, to } = part;
  const { classes, heeding } = classified;
  if (heeding === 0 || comeOnce(holders, part)) return heeding;
  let count = 0;
  for (let place = from; place < to; place++)
    if ((classes[chunks[place] - first] & Said.heeds) !== 0) count += starts[place + 1] - starts[place];
  return count;
}

/** Adds what is said of values: several at a time, since there are many. */
function add(told: WholeBytes, values: Uint16Array, from: number, to: number, says: number): void {
  let i = from;
  for (; i + 3 < to; i += 4) {
    const a = values[i];
    const b = values[i + 1];
    const c = values[i + 2];
    const d = values[i + 3];
    told[a] |= says;
    told[b] |= says;
    told[c] |= says;
    told[d] |= says;
  }
  for (; i < to; i++) told[values[i]] |= says;
}

/** Adds what a chunk says to the values that it comes in. */
function tellOf(
  { starts, laters, values }: ChunkHolders,
  place: number,
  verdict: number,
  said: Uint8Array,
  told: WholeBytes,
): void {
  if (verdict >= LATER) {
    if (verdict === LATER_OPEN) add(told, values, starts[place], laters[place], Said.open);
    add(told, values, laters[place], starts[place + 1], Said.hit);
  } else if (said[verdict] !== 0) add(told, values, starts[place], starts[place + 1], said[verdict]);
}

/** Adds what chunks say to the values that they come in. */
function gather(holders: ChunkHolders, part: PoolClasses, said: Uint8Array, told: WholeBytes): void {
  const { chunks, starts, laters, values } = holders;
  const { classified, first, from, to } = part;
  const { classes, noted } = classified;
  // Where each chunk of the pool comes in a value, its place there is that here.
  if (noted && to - from === classes.length) {
    for (let k = 0; k < noted.length; k++) tellOf(holders, from + noted[k], classes[noted[k]], said, told);
    return;
  }
  if (comeOnce(holders, part)) {
    for (let place = from, i = starts[from]; place < to; place++, i++) {
      const verdict = classes[chunks[place] - first];
      told[values[i]] |= verdict < LATER ? said[verdict] : i < laters[place] ? verdict & Said.open : Said.hit;
    }
    return;
  }
  for (let place = from; place < to; place++) tellOf(holders, place, classes[chunks[place] - first], said, told);
}

export class ChunkClassifier {
  private readonly classes: ChunkClasses;
  private sharedPool: ChunkPool | undefined;
  private shared: Classified | undefined;

  constructor(
    dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.classes = new ChunkClasses(dfa, reading);
  }

  /** False if nothing can be told by chunks alone, or the automaton has begun anew. */
  get valid(): boolean {
    return this.classes.valid;
  }

  /**
   * Values that hit for certain, and those that have to be read.
   * @param asked YES for each value that is asked; becomes HIT for those that do, YES for those to be read, NO for the others
   * @param worth it is not worth while to read more chunks of the segment alone: then values with such a chunk may have to be read
   * @returns undefined if that could not be told; `asked` is then as it was
   */
  classify(chunks: Chunks, asked: WholeBytes, worth: number): ClassesFound | undefined {
    const { classes } = this;
    const shared = this.sharedOf(chunks.shared.pool);
    const ours = classes.of(chunks.own, worth);
    if (shared) classes.heed(chunks.shared.pool, shared);
    if (ours) classes.heed(chunks.own, ours);
    if (!shared || !classes.valid) return undefined;
    if (gathered.length < asked.length) gathered = wholeBytes(asked.length);
    const told = clearedBeginning(gathered, asked.length);
    this.gather(chunks, shared, ours, told);
    tell(asked, told);
    return { shared, own: ours };
  }

  private sharedOf(pool: ChunkPool): Classified | undefined {
    if (pool !== this.sharedPool) this.shared = this.classes.of(pool);
    this.sharedPool = pool;
    return this.shared;
  }

  /** @param ours of the chunks of the segment alone; undefined if they are not looked at */
  private gather(chunks: Chunks, shared: Classified, ours: Classified | undefined, told: WholeBytes): void {
    const { holders, own } = chunks;
    const { starts, values, firstOwn, chunks: numbers } = holders;
    const parts: PoolClasses[] = [{ classified: shared, first: 0, from: 0, to: firstOwn }];
    if (ours) parts.push({ classified: ours, first: SHARED_CHUNKS, from: firstOwn, to: numbers.length });
    const heeding = parts.reduce((sum, part) => sum + countHeeding(holders, part), 0);
    const said = this.classes.tellsHeed && heeding * FEW_HEED < values.length ? SAID : SAID_SHORT;
    for (const part of parts) gather(holders, part, said, told);
    if (!ours) {
      const unread = (own.sharedTraits & this.reading.trait) !== 0 ? Said.open : Said.odd;
      add(told, values, starts[firstOwn], values.length, unread);
    }
  }
}

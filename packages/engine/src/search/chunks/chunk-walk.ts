/**
 * An automaton over the distinct values of a column, chunk by chunk. Where a chunk leads from a state is remembered, so that
 * a value costs a look-up a chunk however long its text: in a column of some thousand words a segment is read several
 * times faster than letter by letter.
 */
import { Dfa } from '../../automaton/index.js';
import { FACE_BREAK_CHUNK, type Chunks, type WholeBytes, wordsOf } from '../../store/index.js';
import { type ChunkReading, NO_STATE, readChunk, readPool } from './chunk-reading.js';
import { ChunkMemory, FIRST } from './chunk-memory.js';
import { ChunkClassifier, type ClassesFound } from './chunk-classifier.js';
import { countYes, HIT, NO, settle, UNTOLD, YES } from './verdicts.js';

/** The verdict on a value by the state at its end; what is not known is still asked. */
const VERDICTS = Uint8Array.of(YES, HIT, UNTOLD, ...new Array<number>(253).fill(NO));
/** How often the memory may be full before nothing is remembered any more: then it does not help. */
const PATIENCE = 8;
/** Values that are soon read one by one. */
const FEW_VALUES = 1_024;
/** Values that are read before what was learnt in them is made use of. */
const A_BLOCK = 2_048;
/** Chunks of a segment alone, to each value that is asked, that are still looked at by themselves. */
const MANY_OWN = 8;
/** Chunks that are soon read one by one. */
const FEW_CHUNKS = 128;
/** Chunks of a value that are read to its end, whatever comes. */
const SHORT = 32;
/** Values of a block that are gone through. */
const LISTED = new Uint32Array(A_BLOCK + 1);
const EACH_YES = 0x01010101;

/** The way of one automaton through the segments of one column. */
export class ChunkWalk {
  private readonly known: ChunkMemory;
  private classifier: ChunkClassifier | undefined;

  constructor(
    private readonly dfa: Dfa,
    private readonly reading: ChunkReading,
  ) {
    this.known = new ChunkMemory(dfa, reading);
  }

  /** @param asked YES for each value that is asked; those that do not hit become NO, or UNTOLD */
  ask(chunks: Chunks, asked: WholeBytes): void {
    const { dfa, reading } = this;
    const many = countYes(asked);
    if (many === 0) {
      settle(asked);
      return;
    }
    if (dfa.overgrown) {
      for (let value = 0; value < asked.length; value++) if (asked[value] === YES) asked[value] = UNTOLD;
      settle(asked);
      return;
    }
    const { repeating } = chunks;
    if (repeating && this.known.begun <= PATIENCE) {
      const { found, left } = this.classifyFirst(chunks, asked, many);
      // Another column, or the classifier, may have made the automaton begin anew.
      this.known.follow();
      if (left > 0) {
        this.known.enter(chunks);
        this.learnFound(chunks, found, left);
        this.recall(chunks, repeating, asked);
      }
    } else {
      const { single, own } = chunks;
      const atOnce = single && (own.sharedTraits & reading.trait) !== 0;
      if (!atOnce || !dfa.testEach(own, reading.letters, asked, YES)) this.readAll(chunks, asked);
    }
    settle(asked);
  }

  /**
   * Asks chunks first where many values are asked that share them.
   * @param many how many are asked
   * @returns what was found of them, if they were asked, and how many values are still to be asked
   */
  private classifyFirst(
    chunks: Chunks,
    asked: WholeBytes,
    many: number,
  ): { found?: ClassesFound | undefined; left: number } {
    if (many < FEW_VALUES || chunks.holders.parted) return { left: many };
    if (!this.classifier?.valid) this.classifier = new ChunkClassifier(this.dfa, this.reading);
    if (!this.classifier.valid) return { left: many };
    const found = this.classifier.classify(chunks, asked, MANY_OWN * many);
    return { found, left: found ? countYes(asked) : many };
  }

  /** @param left values that are still to be read */
  private learnFound(chunks: Chunks, found: ClassesFound | undefined, left: number): void {
    const { known } = this;
    if (found) known.takeShared(found.shared);
    if (chunks.own.size > left) return;
    if (found?.own) known.takeOwn(found.own, chunks);
    else known.learnOwn(chunks);
  }

  private recall(chunks: Chunks, sequence: Uint16Array, asked: WholeBytes): void {
    // What one block had to learn, the next one knows.
    for (let from = 0; from < asked.length; from += A_BLOCK) {
      const unknown = this.recallKnown(chunks, sequence, asked, from, Math.min(from + A_BLOCK, asked.length));
      for (let i = 0; i < unknown; i++) asked[LISTED[i]] = this.recallOne(chunks, sequence, LISTED[i]);
    }
  }

  /**
   * Works without branches that cannot be guessed, since a wrong guess costs more than reading some chunks: which values are asked
   * is listed first, and short ones are read to their end, whatever comes.
   * @returns how many there are that come to what is not known yet; they are in `LISTED`
   */
  private recallKnown(chunks: Chunks, sequence: Uint16Array, asked: WholeBytes, from: number, to: number): number {
    const { starts } = chunks;
    const { memory, bits } = this.known;
    let listed = 0;
    const words = wordsOf(asked);
    for (let value = from; value < to; value += 4) {
      const word = words[value >>> 2];
      if ((word & EACH_YES) === 0) continue;
      for (let i = 0; i < 4; i++) {
        LISTED[listed] = value + i;
        listed += (word >>> (i << 3)) & YES;
      }
    }
    let unknown = 0;
    for (let at = 0; at < listed; at++) {
      const value = LISTED[at];
      let i = starts[value] | 0;
      const end = starts[value + 1] | 0;
      if (i === end) {
        asked[value] = NO;
        continue;
      }
      let state = FIRST;
      if (end - i <= SHORT) for (; i < end; i++) state = memory[(state << bits) | sequence[i]];
      else
        for (; i < end && state >= FIRST; i++) {
          const next = memory[(state << bits) | sequence[i]];
          // Most chunks leave the state as it is: so the processor goes on without waiting for what the last look-up says.
          if (next !== state) state = next;
        }
      // The end is read as a face break: the text ends there, too.
      const verdict = VERDICTS[memory[(state << bits) | FACE_BREAK_CHUNK]];
      asked[value] = verdict;
      LISTED[unknown] = value;
      unknown += verdict & YES;
    }
    return unknown;
  }

  private recallOne(chunks: Chunks, sequence: Uint16Array, value: number): number {
    const { starts } = chunks;
    const { known } = this;
    let state = FIRST;
    for (let i = starts[value]; i <= starts[value + 1] && state >= FIRST; i++) {
      const chunk = i < starts[value + 1] ? sequence[i] : FACE_BREAK_CHUNK;
      state = known.memory[(state << known.bits) | chunk] || known.learn(chunks, state, chunk);
    }
    return VERDICTS[state];
  }

  private readAll(chunks: Chunks, asked: WholeBytes): void {
    const { dfa, reading } = this;
    const { sequence, starts, own } = chunks;
    const firsts = this.firstStates(chunks, asked);
    const { generation } = dfa;
    for (let value = 0; value < asked.length; value++) {
      if (asked[value] !== YES) continue;
      const from = starts[value];
      const to = starts[value + 1];
      let state: number = Dfa.START;
      for (let i = from; i < to && state >= 0; i++) {
        const at = sequence[i] - own.first;
        const known = at >= 0 && state === Dfa.START && firsts && (own.traits[at] & reading.trait) !== 0;
        state =
          known && generation === dfa.generation ? firsts[at] : readChunk(dfa, reading, chunks, state, sequence[i]);
      }
      if (state === NO_STATE) asked[value] = UNTOLD;
      else asked[value] = from < to && dfa.matchesAtEnd(state) ? YES : NO;
    }
  }

  /** Gives what chunks of the segment alone lead to from the start, if they can be read unit by unit; undefined if few are needed. */
  private firstStates({ own }: Chunks, asked: WholeBytes): Int32Array | undefined {
    return own.size < FEW_CHUNKS || own.size > 2 * countYes(asked)
      ? undefined
      : readPool(this.dfa, this.reading, own, Dfa.START)?.states;
  }
}

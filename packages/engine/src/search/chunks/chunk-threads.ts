/** A program with too many states for an automaton, over values chunk by chunk: no text is put together, nor folded again. */
import type { Threads } from '../../automaton/index.js';
import { FACE_BREAK_CHUNK, type Chunks } from '../../store/index.js';
import { type ChunkReading, formAt } from './chunk-reading.js';
import { NO, UNTOLD, YES } from './verdicts.js';

/** Chunks and words of bits that are followed without looking at the clock; a value that needs more is read as a cell. */
const MOST_CHUNKS = 4_096;
const MOST_WORDS = 1 << 16;

/**
 * @param least letters that a text has at least in which the program matches
 * @returns YES or NO; UNTOLD where the value has to be looked at as a whole
 */
export function followChunks(
  threads: Threads,
  reading: ChunkReading,
  chunks: Chunks,
  value: number,
  least: number,
): number {
  const { sequence, starts } = chunks;
  const [from, to] = [starts[value], starts[value + 1]];
  if (to - from > MOST_CHUNKS) return UNTOLD;
  if (unitsOf(chunks, from, to, reading.trait) < least) return NO;
  let left = MOST_WORDS;
  threads.begin();
  for (let i = from; i < to; i++) {
    const chunk = sequence[i];
    if (chunk === FACE_BREAK_CHUNK) {
      if (threads.matchesAtEnd()) return YES;
      threads.begin();
      continue;
    }
    const pool = chunks.poolOf(chunk);
    const at = chunk - pool.first;
    if ((pool.traits[at] & reading.trait) !== 0) {
      const [first, end] = [pool.starts[at], pool.starts[at + 1] - 1];
      if ((left -= (end - first) * threads.words) < 0) return UNTOLD;
      if (threads.read(pool.units, first, end, reading.letters)) return YES;
      continue;
    }
    const form = formAt(pool, chunk, reading);
    if (!form || form.starts || (left -= form.text.length * threads.words) < 0) return UNTOLD;
    if (threads.readText(form.text)) return YES;
  }
  return from < to && threads.matchesAtEnd() ? YES : NO;
}

/** Tells how many units all faces of a value have in all; Infinity where some are not read unit by unit. */
function unitsOf(chunks: Chunks, from: number, to: number, trait: number): number {
  let units = 0;
  for (let i = from; i < to; i++) {
    const chunk = chunks.sequence[i];
    if (chunk === FACE_BREAK_CHUNK) continue;
    const pool = chunks.poolOf(chunk);
    const at = chunk - pool.first;
    if ((pool.traits[at] & trait) === 0) return Infinity;
    units += pool.starts[at + 1] - pool.starts[at] - 1;
  }
  return units;
}

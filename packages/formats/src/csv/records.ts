/**
 * Whole records of a CSV text, block by block, with one line end for all: outside of quotes CRLF and CR become LF, whatever
 * stands beside them. Quotes are looked at on the way: what follows a closing one is told with its line. So whoever cuts
 * the blocks into cells needs no memory from one to the next.
 */
import { LIMITS } from '@usual-needle/contract';
import { FileProblem } from '../problem.js';

export interface Block {
  /** Whole records, each ended by LF; none of them a line of nothing. */
  readonly text: string;
  /** The line that each of them starts on, from 1. */
  readonly lines: readonly number[];
}

const QUOTE = 0x22;
const CR = 0x0d;
const LF = 0x0a;

export class RecordReader {
  private pieces: string[] = [];
  private size = 0;
  private held = '';
  private quoted = false;
  /** Line of what comes next, and of where the record in hand starts. */
  private line: number;
  private recordLine: number;
  /** Nothing of the record in hand has been read. */
  private fresh = true;
  private before = -1;
  /** Lines of nothing that are rows, if others come after them. */
  private blank = 0;

  /** @param blankRows lines of nothing are rows with one blank cell, but for those at the end */
  constructor(
    private readonly delimiter: string,
    private readonly blankRows = false,
    firstLine = 1,
  ) {
    this.line = firstLine;
    this.recordLine = firstLine;
  }

  /**
   * @param end no more comes after this
   * @throws FileProblem
   */
  put(chunk: string, end: boolean): Block | undefined {
    const text = this.held + chunk;
    // What a sign means may depend on the one after it.
    let until = end ? text.length : text.length - 1;
    const done: string[] = [];
    const lines: number[] = [];
    let from = 0;
    const signs = /["\r\n]/g;
    for (let found = signs.exec(text); found && found.index < until; found = signs.exec(text)) {
      const at = found.index;
      const sign = text.charCodeAt(at);
      const next = at + 1 < text.length ? text.charCodeAt(at + 1) : -1;
      if (this.quoted) {
        if (sign !== QUOTE) {
          if (sign === LF || next !== LF) this.line++;
          continue;
        }
        if (next === QUOTE) {
          // The two are one sign of a cell, and are read together.
          if (at + 1 < until) {
            signs.lastIndex = at + 2;
            continue;
          }
          until = at;
          break;
        }
        this.quoted = false;
        if (next !== -1 && next !== CR && next !== LF && text[at + 1] !== this.delimiter) this.refuseQuote();
        continue;
      }
      if (sign === QUOTE) {
        const before = at > 0 ? text.charCodeAt(at - 1) : this.before;
        const first = before === -1 || before === LF || before === CR || String.fromCharCode(before) === this.delimiter;
        // Elsewhere it is a letter like others.
        if (first) this.quoted = true;
        continue;
      }
      if (sign === CR && next === LF) {
        this.take(text.slice(from, at));
        from = at + 1;
        continue;
      }
      this.take(text.slice(from, at));
      from = at + 1;
      this.endRecord(done, lines);
    }
    if (this.quoted && end) {
      const { recordLine } = this;
      throw new FileProblem(
        `A quote is opened and never closed in the row that starts on line ${recordLine}.`,
        recordLine,
      );
    }
    this.take(text.slice(from, Math.max(from, until)));
    this.held = text.slice(Math.max(0, until));
    if (until > 0) this.before = text.charCodeAt(until - 1);
    if (end && !this.fresh) this.endRecord(done, lines);
    if (this.size > LIMITS.row) {
      const { recordLine } = this;
      throw new FileProblem(
        `The row that starts on line ${recordLine} is longer than ${LIMITS.row} characters.`,
        recordLine,
      );
    }
    return done.length === 0 ? undefined : { text: done.join(''), lines };
  }

  private refuseQuote(): never {
    const { recordLine } = this;
    throw new FileProblem(
      `A cell goes on after its closing quote in the row that starts on line ${recordLine}.`,
      recordLine,
    );
  }

  private take(text: string): void {
    if (text === '') return;
    this.pieces.push(text);
    this.size += text.length;
    this.fresh = false;
  }

  private endRecord(done: string[], lines: number[]): void {
    this.line++;
    if (this.fresh) {
      if (this.blankRows) this.blank++;
    } else {
      for (; this.blank > 0; this.blank--) {
        done.push('""\n');
        lines.push(this.recordLine - this.blank);
      }
      done.push(...this.pieces, '\n');
      lines.push(this.recordLine);
    }
    this.pieces = [];
    this.size = 0;
    this.fresh = true;
    this.recordLine = this.line;
  }
}

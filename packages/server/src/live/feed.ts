/** The sheets that have a table open, and what they are told, as Server-Sent Events (HTML Living Standard, 9.2). */
import type { ServerResponse } from 'node:http';

/** A sheet that has left so many bytes unread is let go; it comes back and catches up. */
const UNREAD_LIMIT = 512 * 1024;
/** The time between two beats, in milliseconds, by which nothing on the way takes the connection for dead. */
const BEAT_MS = 20_000;
/** Comings and goings are told together, so long after the first of them, in milliseconds. */
const GATHER_MS = 300;
/** Names of those present that are told. */
const NAMED = 12;

/** The people who have a table open: the first names, and how many sheets there are in all. */
export interface Present {
  readonly who: readonly { readonly id: number; readonly name: string | null }[];
  readonly count: number;
}

/** Writes one event in the form of the standard. @param id what a reconnecting reader says it has seen */
export function eventText(event: string, data: unknown, id?: number): string {
  return `${id === undefined ? '' : `id: ${id}\n`}event: ${event}\ndata: ${JSON.stringify(data)}\n\n`;
}

/** An event that open sheets are told. @property number of the change that it tells of, if it tells of one */
interface EventText {
  readonly text: string;
  readonly number?: number | undefined;
}

/** The telling of a sheet: all of it; or, of a box's readers, only that something has happened. */
export type Telling = 'all' | 'reader';

interface OpenSheet {
  readonly telling: Telling;
  readonly id: number;
  readonly name: string | null;
  readonly response: ServerResponse;
  /** Nothing is told before it has been told what it missed. */
  waiting: EventText[] | undefined;
}

export class Feed {
  private readonly sheets = new Map<number, Set<OpenSheet>>();
  private readonly gathering = new Map<number, ReturnType<typeof setTimeout>>();
  private readonly beat = setInterval(() => this.all((sheet) => this.write(sheet, ': still here\n\n')), BEAT_MS);
  private next = 1;

  /** Streams that are open. */
  get listeners(): number {
    return [...this.sheets.values()].reduce((sum, sheets) => sum + sheets.size, 0);
  }

  /** Tells whether somebody has a table open. */
  isOpen(table: number): boolean {
    return (this.sheets.get(table)?.size ?? 0) > 0;
  }

  /**
   * Opens the stream of one sheet.
   * @param missed the events that it missed, read while what happens meanwhile waits
   */
  async open(
    table: number,
    name: string | null,
    response: ServerResponse,
    missed: () => Promise<readonly EventText[]>,
    telling: Telling = 'all',
  ): Promise<void> {
    // Whoever left before it was begun is not here, and nothing would say so later.
    if (response.destroyed || response.closed) return;
    response.writeHead(200, {
      'Content-Type': 'text/event-stream; charset=utf-8',
      'Cache-Control': 'no-store',
      'X-Accel-Buffering': 'no',
    });
    const sheet: OpenSheet = { id: this.next++, telling, name, response, waiting: [] };
    const sheets = this.sheets.get(table) ?? new Set();
    this.sheets.set(table, sheets.add(sheet));
    response.on('close', () => {
      sheets.delete(sheet);
      if (sheets.size === 0) this.sheets.delete(table);
      this.gather(table);
    });
    response.on('error', () => response.destroy());
    response.write(eventText('hello', { id: sheet.id }));
    // What happens while it is read what a sheet missed is in both.
    let last = 0;
    try {
      for (const { text, number = 0 } of await missed()) {
        response.write(text);
        last = Math.max(last, number);
      }
    } catch (error) {
      response.destroy();
      throw error;
    }
    const { waiting = [] } = sheet;
    sheet.waiting = undefined;
    for (const { text, number } of waiting) if (number === undefined || number > last) this.write(sheet, text);
    this.gather(table);
  }

  /** Tells every sheet on a table. @param forReaders what readers are told in its place, if anything */
  tell(table: number, text: string, number?: number, forReaders?: string): void {
    for (const sheet of this.sheets.get(table) ?? []) {
      const told = sheet.telling === 'reader' ? forReaders : text;
      if (told === undefined) continue;
      if (sheet.waiting) sheet.waiting.push({ text: told, number });
      else this.write(sheet, told);
    }
  }

  present(table: number): Present {
    const sheets = [...(this.sheets.get(table) ?? [])].filter(({ telling }) => telling === 'all');
    return { who: sheets.slice(0, NAMED).map(({ id, name }) => ({ id, name })), count: sheets.length };
  }

  private write({ response }: OpenSheet, text: string): void {
    if (response.writableLength > UNREAD_LIMIT) response.destroy();
    else response.write(text);
  }

  private gather(table: number): void {
    if (this.gathering.has(table)) return;
    const timer = setTimeout(() => {
      this.gathering.delete(table);
      this.tell(table, eventText('present', this.present(table)));
    }, GATHER_MS);
    this.gathering.set(table, timer.unref());
  }

  private all(work: (sheet: OpenSheet) => void): void {
    for (const sheets of this.sheets.values()) for (const sheet of sheets) work(sheet);
  }

  close(): void {
    clearInterval(this.beat);
    for (const timer of this.gathering.values()) clearTimeout(timer);
    this.gathering.clear();
    this.all(({ response }) => response.end());
  }
}

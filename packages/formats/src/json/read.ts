/**
 * JSON (RFC 8259) as rows: an array of objects, or of arrays of cells, or one of these a line. The names of objects are the
 * columns, in the order in which they are first met. A number is kept as it is written, and what is in a cell further down as JSON.
 */
import { TokenParser, Tokenizer, TokenType } from '@streamparser/json';
import { LIMITS, type FileChoices } from '@usual-needle/contract';
import { looksLikeHeader } from '../header.js';
import { columnNames, numberedNames, padded, RowMender, type Batch, type FileRow } from '../mend.js';
import { shortened, type TakeNote } from '../notes.js';
import { FileProblem } from '../problem.js';

interface JsonOptions {
  readonly choices?: FileChoices;
  readonly notice?: TakeNote;
}

interface JsonTable {
  /** Further ones may come to it while rows are read: their names are at the end of it, and in rows before their cells are missing. */
  readonly columns: readonly string[];
  readonly header: boolean;
  readonly batches: AsyncIterable<Batch>;
}

/** A number as it stands in the file. */
class RawNumber {
  constructor(readonly text: string) {}
}

/** Stands before each name of an object while it is read: so names that look like numbers keep their places. */
const NAMED = '=';

class RawTokenizer extends Tokenizer {
  override parseNumber(text: string): number {
    return new RawNumber(text) as unknown as number;
  }
}

function cellOf(value: unknown): string {
  if (value === null || value === undefined) return '';
  if (value instanceof RawNumber) return value.text;
  if (typeof value === 'string') return value;
  return jsonOf(value);
}

/** Writes a value as JSON, its numbers as they stand in the file. */
function jsonOf(value: unknown): string {
  if (value instanceof RawNumber) return value.text;
  if (Array.isArray(value)) return `[${value.map(jsonOf).join(',')}]`;
  if (typeof value !== 'object' || value === null) return JSON.stringify(value);
  const entries = Object.entries(value).map(
    ([name, one]) => `${JSON.stringify(name.slice(NAMED.length))}:${jsonOf(one)}`,
  );
  return `{${entries.join(',')}}`;
}

/** Where in objects and lists the next token stands, and which names an object has so far. */
class Names {
  private readonly open: { readonly names: Set<string> | undefined; isName: boolean }[] = [];

  /** The name of an object's value, if the token is one. @returns undefined if it is none */
  nameOf({
    token,
    value,
  }: {
    readonly token: TokenType;
    readonly value: unknown;
  }): { name: string; again: boolean } | undefined {
    const within = this.open.at(-1);
    switch (token) {
      case TokenType.LEFT_BRACE:
        this.open.push({ names: new Set(), isName: true });
        return undefined;
      case TokenType.LEFT_BRACKET:
        this.open.push({ names: undefined, isName: false });
        return undefined;
      case TokenType.RIGHT_BRACE:
      case TokenType.RIGHT_BRACKET:
        this.open.pop();
        return undefined;
      case TokenType.COMMA:
        if (within?.names) within.isName = true;
        return undefined;
      case TokenType.STRING: {
        if (!within?.names || !within.isName) return undefined;
        within.isName = false;
        const name = String(value);
        const again = within.names.has(name);
        within.names.add(name);
        return { name, again };
      }
      default:
        return undefined;
    }
  }
}

/** The elements of an array, or of many lines, as they come. */
class Elements {
  private found: { value: unknown; line: number }[] = [];
  private readonly names = new Names();
  private readonly tokenizer: RawTokenizer;
  private readonly parser: TokenParser;
  private depth = 0;
  private failure: FileProblem | undefined;
  private line = 1;
  private row = 0;
  private sinceElement = 0;

  /** @param twice is told of a name that stands twice in one object */
  constructor(
    private readonly lines: boolean,
    twice: (name: string, line: number) => void,
  ) {
    this.twice = (name) => {
      try {
        twice(name, lines ? this.line : this.row + 1);
      } catch (error) {
        if (!(error instanceof FileProblem)) throw error;
        this.failure ??= error;
      }
    };
    const separator = lines ? { separator: '' } : {};
    this.tokenizer = new RawTokenizer(separator);
    const parser = (this.parser = new TokenParser({ paths: [lines ? '$' : '$.*'], keepStack: false, ...separator }));
    parser.onValue = ({ value }) => {
      this.row++;
      this.sinceElement = 0;
      this.found.push({ value, line: lines ? this.line : this.row });
    };
    parser.onError = (error) => this.fail(error.message);
    this.tokenizer.onError = (error) => this.fail(error.message);
    this.tokenizer.onToken = (token) => {
      if (token.token === TokenType.LEFT_BRACE || token.token === TokenType.LEFT_BRACKET) this.depth++;
      if (token.token === TokenType.RIGHT_BRACE || token.token === TokenType.RIGHT_BRACKET) this.depth--;
      if (this.depth > LIMITS.depth)
        this.failure ??= new FileProblem(
          `${this.where()} has lists one within the other more than ${LIMITS.depth} deep.`,
          this.line,
        );
      if (!lines && this.depth === 1 && token.token === TokenType.LEFT_BRACE)
        this.failure ??= new FileProblem('It is one JSON object; a table is an array of objects or of arrays.', 1);
      const named = this.names.nameOf(token);
      if (named?.again) this.twice(named.name);
      if (!this.failure) parser.write(named ? { ...token, value: NAMED + named.name } : token);
    };
  }

  private readonly twice: (name: string) => void;

  private where(): string {
    return this.lines ? `Line ${this.line}` : `Row ${this.row + 1}`;
  }

  private fail(message: string): void {
    const said = message.replace(/^Unexpected/, 'unexpected').replace(/\.$/, '');
    this.failure ??= new FileProblem(`It is not JSON at line ${this.line}: ${said.slice(0, 200)}.`, this.line);
  }

  /** @returns the elements that ended in this text */
  put(text: string): { value: unknown; line: number }[] {
    // Lines are counted as they are gone through, so that what is wrong is told where it is.
    for (let at = 0; at < text.length && !this.failure;) {
      const next = text.indexOf('\n', at);
      const end = next < 0 ? text.length : next + 1;
      this.sinceElement += end - at;
      if (this.sinceElement > LIMITS.row + text.length)
        throw new FileProblem(`${this.where()} is longer than ${LIMITS.row} characters.`, this.line);
      this.tokenizer.write(text.slice(at, end));
      if (next >= 0) this.line++;
      at = end;
    }
    if (this.failure) throw this.failure;
    const { found } = this;
    this.found = [];
    return found;
  }

  end(): void {
    if (!this.tokenizer.isEnded) this.tokenizer.end();
    if (!this.parser.isEnded) this.parser.end();
    if (this.failure)
      throw new FileProblem(`The JSON ends before its end, at line ${this.line}. It may be cut short.`, this.line);
  }
}

/** @param lines one value a line, instead of one array. @throws FileProblem */
export async function readJson(
  text: AsyncIterable<string>,
  lines: boolean,
  { choices = {}, notice }: JsonOptions = {},
): Promise<JsonTable> {
  const elements = new Elements(lines, (name, line) => {
    if (choices.unkeepable !== 'mend')
      throw new FileProblem(`${lines ? 'Line' : 'Row'} ${line} has “${name.slice(0, 60)}” twice.`, line);
    notice?.({ what: 'twice', line, example: shortened(name) });
  });
  async function* all(): AsyncGenerator<{ value: unknown; line: number }[]> {
    for await (const chunk of text) {
      // A chunk may be of any size; rows of it are few enough to be held.
      for (let at = 0; at < chunk.length; at += 64 * 1024) {
        const found = elements.put(chunk.slice(at, at + 64 * 1024));
        if (found.length > 0) yield found;
      }
    }
    elements.end();
  }
  const stream = all();
  const start = await stream.next();
  if (start.done) throw new FileProblem('The file has no rows.');
  const ofArrays = Array.isArray(start.value[0].value);
  const what = lines ? 'Line' : 'Row';
  const columns: string[] = [];
  const places = new Map<string, number>();
  const objectRow = (element: Readonly<Record<string, unknown>>, line: number): FileRow => {
    const row: string[] = [];
    for (const key of Object.keys(element)) {
      const name = key.slice(NAMED.length);
      let place = places.get(name);
      if (place === undefined) {
        place = places.size;
        places.set(name, place);
        const [named] = columnNames([...columns, name], choices, undefined, line).slice(-1);
        if (named !== name.trim()) notice?.({ what: 'header', line, example: name });
        columns.push(named);
      }
      row[place] = cellOf(element[key]);
    }
    return Array.from(row, (cell) => cell ?? '');
  };
  const rowOf = ({ value, line }: { value: unknown; line: number }): FileRow => {
    if (typeof value !== 'object' || value === null || value instanceof RawNumber)
      throw new FileProblem(`${what} ${line} is neither an object nor an array.`, line);
    if (Array.isArray(value) !== ofArrays)
      throw new FileProblem(
        `${what} ${line} is ${ofArrays ? 'an object among arrays' : 'an array among objects'}.`,
        line,
      );
    return Array.isArray(value) ? value.map(cellOf) : objectRow(value as Record<string, unknown>, line);
  };
  const asBatch = (found: { value: unknown; line: number }[]): Batch => ({
    rows: found.map(rowOf),
    lines: found.map(({ line }) => line),
  });
  let first = asBatch(start.value);
  let header = !ofArrays;
  if (ofArrays) {
    const { rows, lines: at } = first;
    header = choices.header ?? looksLikeHeader(rows);
    columns.push(...(header ? columnNames(rows[0], choices, notice, at[0]) : numberedNames(rows[0].length)));
    if (header) first = { rows: rows.slice(1), lines: at.slice(1) };
  }
  async function* batches(): AsyncGenerator<Batch> {
    const mender = new RowMender(columns.length, choices, notice);
    const mended = ({ rows, lines: at }: Batch): Batch => {
      mender.columns = columns.length;
      // An object is without what it does not name.
      return mender.mend({ rows: ofArrays ? rows : rows.map((row) => padded(row, columns.length)), lines: at });
    };
    yield mended(first);
    for await (const found of stream) yield mended(asBatch(found));
  }
  return { columns, header, batches: batches() };
}

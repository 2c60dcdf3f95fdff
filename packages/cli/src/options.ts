/** The command's options, and how they and a box file become one question. */
import { readFile } from 'node:fs/promises';
import { Ajv } from 'ajv';
import { boxSchema, type Box, type Column, type WireQuestion } from '@usual-needle/contract';
import { ANSWERS, columnNamed, writtenDigits } from '@usual-needle/host';

type AskedPicker = NonNullable<WireQuestion['pickers']>[number];

/** Something the person at the keyboard can put right: said plainly, exit code 2. */
export class UsageProblem extends Error {}

export interface FindOptions {
  readonly strand: readonly string[];
  readonly in?: string;
  readonly reading?: string;
  readonly need?: string;
  readonly where?: string;
  readonly case?: string;
  readonly accents?: string;
  readonly pick: readonly string[];
  readonly effect?: string;
  readonly flip?: boolean;
  readonly sort?: string;
  readonly show?: string;
  readonly kind: readonly string[];
  readonly box?: string;
  readonly out: 'csv' | 'json' | 'ndjson' | 'xlsx' | 'html' | 'page' | 'count';
  /** The file that the rows go to; standard output, if not said. */
  readonly to?: string;
  /** A server whose box is asked, in place of a file. */
  readonly server?: string;
  readonly token?: string;
  readonly explain?: boolean;
}

const READINGS = { words: 'words', plain: 'plain text', wildcards: 'wildcards', pattern: 'pattern' } as const;
const NEEDS = { every: 'every word', any: 'any word' } as const;
const PLACES = {
  anywhere: 'anywhere',
  'word-start': 'start of a word',
  word: 'whole word',
  'cell-start': 'start of the cell',
  'cell-end': 'end of the cell',
  cell: 'whole cell',
} as const;
const CARES = { ignore: 'ignore', respect: 'respect' } as const;
const EFFECTS = { show: 'show only matches', mark: 'mark in place', 'leave-out': 'leave matches out' } as const;
const KINDS: Readonly<Record<string, Column['kind']>> = {
  text: 'text',
  number: 'number',
  date: 'date',
  'yes/no': 'yes/no',
  yesno: 'yes/no',
  choice: 'choice',
};
const VERBS = ['find', 'plus', 'minus', 'within'] as const;

/** The values that each option of the command takes, for its help and its checks. */
export const CHOICES = {
  reading: Object.keys(READINGS),
  need: Object.keys(NEEDS),
  where: Object.keys(PLACES),
  care: Object.keys(CARES),
  effect: Object.keys(EFFECTS),
};

function chosen<T extends object>(values: T, word: string | undefined): T[keyof T] | undefined {
  return word === undefined ? undefined : values[word as keyof T];
}

/** The parts of a list with commas, in double quotes where they hold one. */
function parted(text: string): string[] {
  const parts = text.match(/(?:"(?:[^"]|"")*"|[^,])+/g) ?? [];
  return parts.map((part) => part.trim()).filter((part) => part !== '');
}

function unquoted(text: string): string {
  return /^".*"$/s.test(text) ? text.slice(1, -1).replaceAll('""', '"') : text;
}

function listed(text: string): string[] {
  return parted(text)
    .map(unquoted)
    .filter((part) => part !== '');
}

/** The full name of a column given by name or by a beginning that only it has. */
function columnName(columns: readonly Column[], typed: string): string {
  const exact = columns.find(({ name }) => name === typed);
  if (exact) return exact.name;
  const choice = columnNamed(columns, typed);
  if (choice.found === 'one') return columns[choice.index].name;
  const names = columns.map(({ name }) => name).join(', ');
  throw new UsageProblem(
    choice.found === 'none'
      ? `There is no column “${typed}”. There are: ${names}.`
      : `“${typed}” begins the names of several columns: ${choice.names.join(', ')}.`,
  );
}

/** Splits `Name=value` at the first `=` before which a column's name stands. */
function assignment(columns: readonly Column[], text: string, option: string): { column: string; value: string } {
  for (let at = text.indexOf('='); at >= 0; at = text.indexOf('=', at + 1)) {
    const name = unquoted(text.slice(0, at).trim());
    if (columns.some((column) => column.name === name)) return { column: name, value: text.slice(at + 1) };
  }
  const at = text.indexOf('=');
  if (at < 0) throw new UsageProblem(`${option} wants “column=value”, not “${text}”.`);
  return { column: columnName(columns, text.slice(0, at).trim()), value: text.slice(at + 1) };
}

function bounds(value: string): [string, string] {
  const at = value.indexOf('..');
  return at < 0 ? [value.trim(), value.trim()] : [value.slice(0, at).trim(), value.slice(at + 2).trim()];
}

function pickerOf(columns: readonly Column[], text: string): AskedPicker {
  const { column, value } = assignment(columns, text, '--pick');
  const { kind } = columns.find(({ name }) => name === column)!;
  if (kind === 'date') {
    const [from, to] = bounds(value);
    return { column, days: { from, to } };
  }
  if (kind === 'number') {
    const [from, to] = bounds(value).map((part) => {
      if (part === '') return null;
      const digits = writtenDigits(
        part,
        columns.find(({ name }) => name === column)!,
      );
      const number = digits === undefined ? undefined : Number(digits);
      if (number === undefined) throw new UsageProblem(`“${part}” cannot be read as a number for “${column}”.`);
      return number;
    });
    return { column, numbers: { from, to } };
  }
  const values = value === '' ? [] : value.split('|').map((one) => one.trim());
  if (kind !== 'yes/no') return { column, values };
  // Each way to say it stands for all of them.
  const ways = (value: string): readonly string[] =>
    Object.values(ANSWERS).find((same) => (same as readonly string[]).includes(value.toLowerCase())) ?? [value];
  return { column, values: values.flatMap(ways) };
}

function sortOf(columns: readonly Column[], text: string): WireQuestion['sort'] {
  return parted(text).map((part) => {
    const match = /^(.*?)(?::(up|down))?(?::(value|count))?$/s.exec(part)!;
    return {
      column: columnName(columns, unquoted(match[1].trim())),
      direction: (match[2] ?? 'up') as 'up' | 'down',
      by: (match[3] ?? 'value') as 'value' | 'count',
    };
  });
}

function strandOf(text: string): NonNullable<WireQuestion['strands']>[number] {
  const match = /^\s*(\w+)\s*:\s?(.*)$/s.exec(text);
  const verb = VERBS.find((one) => one === match?.[1]);
  if (!match || !verb) throw new UsageProblem(`--strand wants “plus: …”, “minus: …” or “within: …”, not “${text}”.`);
  return { verb, text: match[2] };
}

/** @throws UsageProblem if the file is no box */
export async function readBox(file: string): Promise<Box> {
  let box: unknown;
  try {
    box = JSON.parse(await readFile(file, 'utf8'));
  } catch (error) {
    throw new UsageProblem(`${file} cannot be read as a box: ${(error as Error).message}`);
  }
  const ajv = new Ajv({ allErrors: false, strict: false });
  // The dialect is named for other tools; Ajv's own is near enough for what the schema uses.
  if (!ajv.validate({ ...boxSchema, $schema: undefined }, box)) {
    const [{ instancePath, message }] = ajv.errors!;
    throw new UsageProblem(`${file} is not a box of this version: ${instancePath || 'it'} ${message}.`);
  }
  return box as Box;
}

/** @throws UsageProblem */
export function withKinds(columns: readonly Column[], kinds: readonly string[]): Column[] {
  const changed = columns.map((column) => ({ ...column }));
  for (const text of kinds) {
    const { column, value } = assignment(columns, text, '--kind');
    const kind = KINDS[value.trim().toLowerCase()];
    if (!kind) throw new UsageProblem(`“${value}” is no kind; there are: ${Object.keys(KINDS).join(', ')}.`);
    changed[columns.findIndex(({ name }) => name === column)].kind = kind;
  }
  return changed;
}

/** @throws UsageProblem */
export function questionOf(
  columns: readonly Column[],
  text: string | undefined,
  options: FindOptions,
  box: Box,
): WireQuestion {
  const [first, ...rest] = box.strands ?? [];
  const kept = first?.verb === 'find' ? rest : (box.strands ?? []);
  const find = {
    verb: 'find' as const,
    text: text ?? (first?.verb === 'find' ? first.text : ''),
    reading: first?.verb === 'find' && text === undefined ? first.reading : undefined,
  };
  const names = (list: string | undefined): string[] | undefined =>
    list === undefined ? undefined : listed(list).map((name) => columnName(columns, name));
  return {
    threaded: names(options.in) ?? (box.everyColumn ? undefined : box.threaded) ?? columns.map(({ name }) => name),
    reading: chosen(READINGS, options.reading) ?? box.reading,
    need: chosen(NEEDS, options.need) ?? box.need,
    where: chosen(PLACES, options.where) ?? box.where,
    case: chosen(CARES, options.case) ?? box.case,
    accents: chosen(CARES, options.accents) ?? box.accents,
    strands: [find, ...kept, ...options.strand.map(strandOf)],
    pickers: [...(box.pickers ?? []), ...options.pick.map((pick) => pickerOf(columns, pick))],
    effect: chosen(EFFECTS, options.effect) ?? box.effect,
    nothingTyped: box.nothingTyped,
    flip: options.flip ?? box.flip,
    sort: options.sort === undefined ? box.sort : sortOf(columns, options.sort),
  };
}

/** Names of the columns to write. @throws UsageProblem */
export function shownOf(columns: readonly Column[], options: FindOptions, box: Box): string[] {
  if (options.show !== undefined) return listed(options.show).map((name) => columnName(columns, name));
  return box.columns?.map(({ name }) => columnName(columns, name)) ?? columns.map(({ name }) => name);
}

/**
 * The notation once more, as plainly as it can be written: every cell of every row is looked at, letter by letter. It shares
 * no code with the engine, so that the two can be held against each other. Slow on purpose; never shipped.
 */
export interface OracleSettings {
  need: 'every word' | 'any word';
  where: 'anywhere' | 'start of a word' | 'whole word' | 'start of the cell' | 'end of the cell' | 'whole cell';
  case: 'ignore' | 'respect';
  accents: 'ignore' | 'respect';
}

export type OracleTerm =
  | { type: 'word'; text: string }
  | { type: 'phrase'; text: string }
  | { type: 'wild'; text: string }
  | { type: 'near'; text: string }
  | { type: 'equals'; text: string }
  | { type: 'pattern'; text: string }
  | { type: 'blank' }
  | { type: 'filled' };

export type OracleNode =
  | { type: 'term'; term: OracleTerm; column?: number }
  | { type: 'all'; of: OracleNode[] }
  | { type: 'any'; of: OracleNode[] }
  | { type: 'not'; of: OracleNode };

const LETTERS: Record<string, string> = {
  ø: 'o',
  Ø: 'O',
  ł: 'l',
  Ł: 'L',
  đ: 'd',
  Đ: 'D',
  ð: 'd',
  Ð: 'D',
  þ: 'th',
  Þ: 'TH',
  æ: 'ae',
  Æ: 'AE',
  œ: 'oe',
  Œ: 'OE',
  ß: 'ss',
  ẞ: 'SS',
  ı: 'i',
};

function lower(text: string): string {
  return [...text]
    .map((c) => (c === 'ı' ? c : [...c.toLowerCase().toUpperCase()].map((d) => d.toLowerCase()).join('')))
    .join('');
}

export function oracleFold(text: string, { case: letters, accents }: OracleSettings): string {
  let folded = accents === 'ignore' ? text.normalize('NFKD').replace(/\p{M}/gu, '') : text.normalize('NFC');
  if (accents === 'ignore') folded = [...folded].map((c) => LETTERS[c] ?? c).join('');
  if (letters === 'ignore') folded = lower(folded);
  if (accents === 'ignore') folded = folded.normalize('NFKD').replace(/\p{M}/gu, '');
  else folded = folded.normalize('NFC');
  return folded
    .replace(/[\u2018\u2019\u201a\u201b]/g, "'")
    .replace(/[\u201c\u201d\u201e\u201f]/g, '"')
    .replace(/\p{Dash}/gu, '-')
    .replace(/[\p{White_Space}\ufeff]+/gu, ' ')
    .replace(/^ | $/g, '');
}

const isWord = (text: string, at: number): boolean =>
  at >= 0 && at < text.length && /[\p{L}\p{Nd}\p{M}]/u.test(text[at]);
const edge = (text: string, at: number): boolean => !(isWord(text, at - 1) && isWord(text, at));

function placed(text: string, start: number, end: number, where: OracleSettings['where']): boolean {
  switch (where) {
    case 'anywhere':
      return true;
    case 'start of a word':
      return edge(text, start);
    case 'whole word':
      return edge(text, start) && edge(text, end);
    case 'start of the cell':
      return start === 0;
    case 'end of the cell':
      return end === text.length;
    case 'whole cell':
      return start === 0 && end === text.length;
  }
}

/** Optimal string alignment by the full table. */
export function oracleDistance(a: string, b: string): number {
  const d = Array.from({ length: a.length + 1 }, (_, i) =>
    Array.from({ length: b.length + 1 }, (_, j) => (i === 0 ? j : j === 0 ? i : 0)),
  );
  for (let i = 1; i <= a.length; i++) {
    for (let j = 1; j <= b.length; j++) {
      d[i][j] = Math.min(d[i - 1][j] + 1, d[i][j - 1] + 1, d[i - 1][j - 1] + (a[i - 1] === b[j - 1] ? 0 : 1));
      if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
        d[i][j] = Math.min(d[i][j], d[i - 2][j - 2] + 1);
    }
  }
  return d[a.length][b.length];
}

/** Hits of a wildcard by trying every way; leftmost, as short as can be. Texts of one unit a character only. */
function wildSpans(text: string, wild: string, where: OracleSettings['where']): [number, number][] {
  const ends = (at: number, rest: string): number[] => {
    if (rest === '') return [at];
    if (rest[0] === '*')
      return Array.from({ length: text.length - at + 1 }, (_, i) => ends(at + i, rest.slice(1))).flat();
    if (at < text.length && (rest[0] === '?' || rest[0] === text[at])) return ends(at + 1, rest.slice(1));
    return [];
  };
  const spans: [number, number][] = [];
  for (let at = 0; at <= text.length;) {
    const end = ends(at, wild).find((one) => placed(text, at, one, where));
    if (end === undefined) at++;
    else {
      spans.push([at, end]);
      at = end > at ? end : at + 1;
    }
  }
  return spans;
}

function textSpans(text: string, needle: string, where: OracleSettings['where']): [number, number][] {
  const spans: [number, number][] = [];
  for (let at = 0; at + needle.length <= text.length;) {
    const end = at + needle.length;
    if (text.slice(at, end) === needle && placed(text, at, end, where)) {
      spans.push([at, end]);
      at = end;
    } else at++;
  }
  return spans;
}

/** With accents respected a hit begins and ends where a character (grapheme) does. */
function atCharacters(text: string, spans: [number, number][], { accents }: OracleSettings): [number, number][] {
  if (accents === 'ignore') return spans;
  const edges = new Set([...new Intl.Segmenter('en').segment(text)].map(({ index }) => index)).add(text.length);
  return spans.filter(([start, end]) => edges.has(start) && edges.has(end));
}

/** Hits in the folded text of a cell; undefined if the term does not hold of it. */
export function oracleSpans(cell: string, term: OracleTerm, settings: OracleSettings): [number, number][] | undefined {
  const text = oracleFold(cell, settings);
  const blank = /^[\p{White_Space}\ufeff]*$/u.test(cell);
  if (term.type === 'blank') return blank ? [] : undefined;
  if (term.type === 'filled') return blank ? undefined : [];
  if (blank) return undefined;
  let spans: [number, number][];
  if (term.type === 'pattern') {
    const flags = settings.case === 'ignore' ? 'giu' : 'gu';
    spans = [...cell.matchAll(new RegExp(term.text, flags))].map((match) => [
      match.index,
      match.index + match[0].length,
    ]);
  } else if (term.type === 'near') {
    const needle = oracleFold(term.text, settings);
    const allowed = needle.length <= 2 ? 0 : needle.length <= 5 ? 1 : 2;
    spans = [...text.matchAll(/[\p{L}\p{Nd}\p{M}]+/gu)]
      .filter((match) => oracleDistance(match[0], needle) <= allowed)
      .map((match) => [match.index, match.index + match[0].length]);
  } else if (term.type === 'wild') {
    spans = wildSpans(text, oracleFold(term.text, settings), settings.where);
  } else {
    spans = textSpans(text, oracleFold(term.text, settings), term.type === 'equals' ? 'whole cell' : settings.where);
  }
  if (term.type !== 'near') spans = atCharacters(text, spans, settings);
  return spans.length > 0 ? spans : undefined;
}

export function oracleRow(
  row: readonly string[],
  node: OracleNode,
  threaded: readonly number[],
  settings: OracleSettings,
): boolean {
  switch (node.type) {
    case 'term': {
      const columns = node.column === undefined ? threaded : [node.column];
      return columns.some((column) => oracleSpans(row[column], node.term, settings) !== undefined);
    }
    case 'not':
      return !oracleRow(row, node.of, threaded, settings);
    case 'any':
      return node.of.some((part) => oracleRow(row, part, threaded, settings));
    case 'all': {
      if (settings.need === 'every word') return node.of.every((part) => oracleRow(row, part, threaded, settings));
      const absent = node.of.filter((part) => part.type === 'not');
      const asked = node.of.filter((part) => part.type !== 'not');
      const holds = (part: OracleNode): boolean => oracleRow(row, part, threaded, settings);
      return absent.every(holds) && (asked.length === 0 || asked.some(holds));
    }
  }
}

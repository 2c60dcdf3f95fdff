/** Reads a strand's text as a tree, by the reading chosen for it. */
import { isBlank } from '../text/index.js';
import type { NamedColumn } from './columns.js';
import { LIMITS } from './limits.js';
import { parsePattern } from './pattern-syntax.js';
import type { Node, Notice, Parsed, TextReading, Settings, Term } from './tree.js';
import { templateOf } from './words-scanner.js';
import { WordsParser } from './words.js';

const NOTHING: Parsed = { tree: undefined, keywords: [], notices: [], problem: undefined };

function refused(message: string, start: number, end: number): Parsed {
  return { ...NOTHING, problem: { kind: 'refused', message, start, end } };
}

/** Why a pattern cannot be read; undefined if it can. */
function patternProblem(source: string): Notice | undefined {
  if (source.length > LIMITS.pattern) {
    const message = `A pattern takes ${count(LIMITS.pattern)} characters at most; this one has ${count(source.length)}.`;
    return { kind: 'refused', message, start: LIMITS.pattern, end: source.length };
  }
  const parsed = parsePattern(source);
  return 'problem' in parsed ? parsed.problem : undefined;
}

function count(value: number): string {
  return String(value).replace(/\B(?=(?:\d{3})+$)/g, ',');
}

function whole(text: string, term: Term): Parsed {
  const tree: Node = { type: 'hit', term, columns: undefined, keyword: 1 };
  return { ...NOTHING, tree, keywords: [{ number: 1, text, start: 0, end: text.length }] };
}

function wildcardSigns(text: string): { text: string; escaped: boolean }[] {
  const signs: { text: string; escaped: boolean }[] = [];
  for (let at = 0; at < text.length;) {
    const escaped = text[at] === '\\' && at + 1 < text.length;
    if (escaped) at++;
    const sign = String.fromCodePoint(text.codePointAt(at)!);
    signs.push({ text: sign, escaped });
    at += sign.length;
  }
  return signs;
}

/**
 * Parses a strand's text. Never throws.
 * @param columns what scopes and comparisons may name: the columns the reader may see, numbered as in the table
 */
export function parse(
  text: string,
  settings: Settings,
  columns: readonly NamedColumn[] = [],
  reading: TextReading = 'words',
): Parsed {
  if (isBlank(text)) return NOTHING;
  if (text.length > LIMITS.strandText) {
    const message = `A strand takes ${count(LIMITS.strandText)} characters at most; this one has ${count(text.length)}.`;
    return refused(message, LIMITS.strandText, text.length);
  }
  switch (reading) {
    case 'plain text':
      return whole(text, { type: 'text', text, where: settings.where });
    case 'wildcards':
      return whole(text, { type: 'wildcard', template: templateOf(wildcardSigns(text)), where: settings.where });
    case 'pattern': {
      const problem = patternProblem(text);
      return problem ? { ...NOTHING, problem } : whole(text, { type: 'pattern', source: text });
    }
    default: {
      const parser = new WordsParser(text, settings, columns, patternProblem);
      const tree = parser.parse();
      const { keywords, notices } = parser;
      let { problem } = parser;
      if (keywords.length > LIMITS.keywords) {
        const { start } = keywords[LIMITS.keywords];
        const message = `A strand takes ${LIMITS.keywords} keywords at most; this one has ${keywords.length}.`;
        problem = { kind: 'refused', message, start, end: text.length };
      }
      return { tree: problem ? undefined : tree, keywords, notices, problem };
    }
  }
}

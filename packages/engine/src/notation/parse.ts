/** From a strand's text to its tree. */
import { isSpace } from '../text/index.js';
import { LIMITS } from './limits.js';
import type { Keyword, Node, Parsed, Settings } from './tree.js';

/** Parses a strand's text. Never throws. */
export function parse(text: string, settings: Settings): Parsed {
  if (text.length > LIMITS.strandText) {
    const message = `A strand takes ${LIMITS.strandText.toLocaleString('en')} characters at most; this one has ${text.length.toLocaleString('en')}.`;
    return {
      tree: undefined,
      keywords: [],
      notices: [],
      problem: { message, start: LIMITS.strandText, end: text.length },
    };
  }
  const keywords: Keyword[] = [];
  const of: Node[] = [];
  for (let at = 0; at < text.length;) {
    const start = at;
    while (at < text.length && !isSpace(text.charCodeAt(at))) at++;
    if (at > start) {
      const number = keywords.length + 1;
      const word = text.slice(start, at);
      keywords.push({ number, text: word, start, end: at });
      of.push({
        type: 'hit',
        term: { type: 'text', text: word, where: settings.where },
        columns: undefined,
        keyword: number,
      });
    } else at++;
  }
  return { tree: of.length === 0 ? undefined : { type: 'all', of }, keywords, notices: [], problem: undefined };
}

/** The changes of a question that remedies make. A change is data, so that it can be sent, shown, and done; doing it is `changed`. */
import type { Picker, Question } from '../search/index.js';
import { fold } from '../text/index.js';

export type RemedyChange =
  /** Put other text in place of a stretch of a strand's. */
  | {
      readonly type: 'replace';
      readonly strand: number;
      readonly start: number;
      readonly end: number;
      readonly text: string;
    }
  | { readonly type: 'thread'; readonly columns: readonly number[] }
  /** Make a picker blank. */
  | { readonly type: 'open'; readonly picker: number }
  | { readonly type: 'need any word' }
  | { readonly type: 'ignore case' }
  | { readonly type: 'ignore accents' }
  | { readonly type: 'match anywhere' }
  | { readonly type: 'read as words'; readonly strand: number }
  | { readonly type: 'read as plain text'; readonly strand: number }
  | { readonly type: 'remove strand'; readonly strand: number }
  | { readonly type: 'several'; readonly of: readonly RemedyChange[] };

function withStrand(
  question: Question,
  at: number,
  edit: (text: string) => string,
  reading?: Question['strands'][0]['reading'],
): Question {
  const strands = question.strands.map((strand, i) =>
    i === at ? { ...strand, text: edit(strand.text), reading: reading ?? strand.reading } : strand,
  );
  return { ...question, strands };
}

/** The question once the change is made. What a replacement leaves at the ends of a text is taken away last, so that places stay true. */
export function changed(question: Question, change: RemedyChange): Question {
  const done = made(question, change);
  const strands = done.strands.map((strand, i) =>
    strand.text === question.strands[i]?.text ? strand : { ...strand, text: strand.text.trim() },
  );
  return { ...done, strands };
}

/**
 * Gives what a question asks, so that two that ask the same can be told: without strands and pickers that ask nothing, and with its
 * columns in one order.
 */
export function askedBy(question: Question): string {
  const { threaded, strands, pickers } = question;
  return JSON.stringify({
    ...question,
    threaded: [...new Set(threaded)].sort((a, b) => a - b),
    strands: strands
      .filter(({ text }) => fold(text) !== '')
      .map(({ verb, text, reading }) => ({ verb, text: text.trim(), reading })),
    pickers: pickers.filter((picker) => !('values' in picker && picker.values.length === 0)),
  });
}

function made(question: Question, change: RemedyChange): Question {
  switch (change.type) {
    case 'replace': {
      const { strand, start, end, text } = change;
      const edited = (old: string): string => old.slice(0, start) + text + old.slice(end);
      return withStrand(question, strand, edited);
    }
    case 'thread':
      return { ...question, threaded: [...new Set([...question.threaded, ...change.columns])].sort((a, b) => a - b) };
    case 'open':
      return {
        ...question,
        pickers: question.pickers.map((picker, i) => (i === change.picker ? blank(picker) : picker)),
      };
    case 'need any word':
      return { ...question, settings: { ...question.settings, need: 'any word' } };
    case 'ignore case':
      return { ...question, settings: { ...question.settings, case: 'ignore' } };
    case 'ignore accents':
      return { ...question, settings: { ...question.settings, accents: 'ignore' } };
    case 'match anywhere':
      return { ...question, settings: { ...question.settings, where: 'anywhere' } };
    case 'read as words':
      return withStrand(question, change.strand, (text) => text, 'words');
    case 'read as plain text':
      return withStrand(question, change.strand, (text) => text, 'plain text');
    case 'remove strand':
      return { ...question, strands: question.strands.filter((_, i) => i !== change.strand) };
    case 'several':
      return inOrder(change.of).reduce(made, question);
  }
}

/** Puts changes in the order in which places stay true: from the end of each text to its start, and strands last, from the last one on. */
function inOrder(changes: readonly RemedyChange[]): RemedyChange[] {
  const place = (change: RemedyChange): number =>
    change.type === 'replace' ? change.start : change.type === 'remove strand' ? -2 - change.strand : -1;
  const last = (change: RemedyChange): number => (change.type === 'remove strand' ? 1 : 0);
  return [...changes].sort((a, b) => last(a) - last(b) || (last(a) === 1 ? place(a) - place(b) : place(b) - place(a)));
}

/** The picker stays where it is and asks nothing, so that the others keep their numbers. */
function blank(picker: Picker): Picker {
  return { type: 'values', column: picker.column, values: [] };
}

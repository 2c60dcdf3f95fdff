/**
 * Questions of every kind that `notation.md` knows: each reading, place, setting and sign, and what has next to nothing to look up. Each is
 * asked once, of a table that was not asked it before, and costs what its processor time is, that of the collector with it.
 */
import {
  blankQuestion,
  DEFAULT_SETTINGS,
  Search,
  windowRows,
  traceOf,
  type Settings,
  type Strand,
  type Table,
} from '@usual-needle/engine';
import { COLUMNS } from './columns.js';
import { figures, line } from './figures.js';

/** A kind, the text typed, and what else differs from a box as it is made. */
type Kind = [kind: string, text: string, settings?: Partial<Settings>, reading?: Strand['reading']];

const SIXTY_FOUR = Array.from({ length: 64 }, (_, i) => 'etaoinshrdlu'[i % 12] + 'aeiou'[i % 5]);

const KINDS: Kind[] = [
  ['a word', 'trolley'],
  ['two letters', 'th'],
  ['a letter', 'm'],
  ['a sign', '.'],
  ['every word', 'leather dark left'],
  ['64 keywords, every word', SIXTY_FOUR.join(' ')],
  ['64 keywords, any word', SIXTY_FOUR.join(' '), { need: 'any word' }],
  ['any word', 'leather dark left', { need: 'any word' }],
  ['absent', '-a'],
  ['only absent', '-e -o -i'],
  ['either', 'wool | silk | e'],
  ['brackets', '((red | blue) (hat | bag)) | -(a e i)'],
  ['a phrase', '"left on the"'],
  ['a phrase of letters', '"e o"'],
  ['whole cell, by a sign', '=umbrella'],
  ['whole cell', 'umbrella', { where: 'whole cell' }],
  ['start of the cell', 'b', { where: 'start of the cell' }],
  ['end of the cell', 's', { where: 'end of the cell' }],
  ['start of a word', 'c', { where: 'start of a word' }],
  ['whole word', 'of', { where: 'whole word' }],
  ['whole word, a wildcard', 'b?g', { where: 'whole word' }],
  ['case respected, a letter', 'P', { case: 'respect' }],
  ['case respected, a word', 'Leather', { case: 'respect' }],
  ['accents respected, a letter', 'u', { accents: 'respect' }],
  ['case and accents respected', 'E', { case: 'respect', accents: 'respect' }],
  ['case and accents respected, a wildcard', 'B*d', { case: 'respect', accents: 'respect' }],
  ['eight characters', '????????'],
  ['forty characters', '?'.repeat(40)],
  ['a run between letters', 'i*u'],
  ['runs between signs', '-*-*-'],
  ['a character between letters', 'r?r'],
  ['wildcards of several', 'c?t d*g'],
  ['wildcards, the whole text', 'w* s?', {}, 'wildcards'],
  ['wildcards, the whole cell', 'b*k', { where: 'whole cell' }, 'wildcards'],
  ['plain text', 'left, ', {}, 'plain text'],
  ['near spelling', '~umbrelal'],
  ['near spelling of three letters', '~bga'],
  ['near spelling of two', '~ab'],
  ['blank', '<blank>'],
  ['filled', '<filled>'],
  ['scoped to a column', 'marks:k'],
  ['scoped and bracketed', 'desc:(red | -hat)'],
  ['a number above', 'decl>12.5'],
  ['a number’s range', 'decl:10..500'],
  ['a month', 'found on:2026-05'],
  ['a date not', 'found on<>2026-05-03'],
  ['a text’s range', 'desc:c..k'],
  ['a text beyond', 'marks>=m'],
  ['a value', 'status=held'],
  ['not a value', 'colour!=black'],
  ['a pattern without a literal', '/[aeiou]{3}/'],
  ['a pattern at the ends', '/^b.*k$/'],
  ['a pattern of digits', '/\\d\\D\\d/'],
  ['a pattern of words', '/\\b\\w{5}\\b/'],
  ['a pattern with either', '/(cat|dog|bag)s?\\b/'],
  ['a pattern beyond ASCII', '/\\P{L}\\p{Lu}/'],
];

/** Patterns with counts, which have a budget of their own. */
const COUNTED: Kind[] = [
  ['counts of characters', `e${'?'.repeat(60)}w`],
  ['a counted gap', '/a.{60}b/'],
  ['a counted gap at the end', '/[aeiou].{50}[aeiou]$/'],
  ['a counted class', '/a[ab]{1000}/'],
  ['a gap of a range', '/e.{10,70}z/'],
  ['two gaps', '/l.{20}e.{20}r/'],
  ['a counted group', '/(?:[a-z]+ ){9}x/'],
];

/** Milliseconds of processor time that work took. */
function costs(work: () => void): number {
  const before = process.cpuUsage();
  work();
  const { user, system } = process.cpuUsage(before);
  return (user + system) / 1_000;
}

export function benchUnusual(table: Table): void {
  const all = COLUMNS.map((_, i) => i);
  const ask = ([, text, settings = {}, reading = 'words']: Kind): void => {
    const search = new Search(table, {
      ...blankQuestion(all),
      settings: { ...DEFAULT_SETTINGS, ...settings },
      strands: [{ verb: 'find', text, reading }],
    }).run();
    if (search.problem) throw new Error(`${text}: ${search.problem.notice.message}`);
    windowRows(search, 0, 40, all);
    if (search.asks) traceOf(search, 250);
  };
  const run = (name: string, kinds: readonly Kind[]): void => {
    const times = kinds.map((kind) => [kind, costs(() => ask(kind))] as const);
    console.log(line(name, figures(times.map(([, time]) => time))));
    const slowest = [...times].sort((a, b) => b[1] - a[1]).slice(0, 14);
    console.log(`  slowest: ${slowest.map(([[kind], time]) => `${kind} ${time.toFixed(0)}`).join(' · ')}`);
  };
  run('UNUSUAL, processor time (budget p95 20, worst 100)', KINDS);
  run('counted, processor time (budget worst 500)', COUNTED);
}

import { readFileSync } from 'node:fs';
import { readCsv } from '@usual-needle/contract/csv';
import { blankQuestion, guessKind, Search, Table } from '@usual-needle/engine';

const ROOT = new URL('../../../', import.meta.url);

describe('docs/notation.md', () => {
  const csv = readCsv(readFileSync(new URL('demo/data/found-items.csv', ROOT), 'utf8'));
  const columns = csv.columns.map((name, i) => ({ name, kind: guessKind(csv.rows.map((row) => row[i])).kind }));
  const table = new Table(columns, csv.rows.map((cells, i) => ({ id: i + 1, cells }))); // prettier-ignore
  const guide = readFileSync(new URL('docs/notation.md', ROOT), 'utf8');
  const examples = [...guide.matchAll(/^\| `(.+?)` +\| (\d+) +\|/gm)];

  it('has examples', () => expect(examples.length).toBeGreaterThan(20));

  for (const [, typed, rows] of examples) {
    it(`is right about ${typed}`, () => {
      const strands = [{ verb: 'find' as const, text: typed.replaceAll('\\|', '|'), reading: 'words' as const }];
      expect(new Search(table, { ...blankQuestion(columns.map((_, i) => i)), strands }).run().matched).toBe(
        Number(rows),
      );
    });
  }
});

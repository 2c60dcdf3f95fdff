import { createReadStream, readFileSync } from 'node:fs';
import { blankQuestion, Search, Table, type ColumnSpec, type Row } from '@usual-needle/engine';
import { KindFinder, readFile } from '@usual-needle/formats';

const ROOT = new URL('../../../', import.meta.url);

describe('docs/notation.md', () => {
  let table: Table;
  let columns: ColumnSpec[];
  beforeAll(async () => {
    const csv = await readFile(createReadStream(new URL('demo/data/found-items.csv', ROOT)));
    const finder = new KindFinder(csv.columns.length);
    const rows: Row[] = [];
    for await (const { rows: batch } of csv.batches) {
      finder.add(batch);
      for (const cells of batch) rows.push({ id: rows.length + 1, cells });
    }
    columns = finder.done().map(({ kind }, i) => ({ name: csv.columns[i], kind }));
    table = new Table(columns, rows);
  });
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

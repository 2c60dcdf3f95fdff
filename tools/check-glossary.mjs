/** Checks that each line of `docs/glossary.md` names a file that is there and defines the name it gives. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ROOT } from './run.mjs';

const LINE = /^\|\s*([^|]+?)\s*\|[^|]*\|\s*\[[^\]]*\]\(([^)]+)\)\s*\|\s*`(\w+)`\s*\|$/;
const text = readFileSync(join(ROOT, 'docs/glossary.md'), 'utf8');
const lines = text.split('\n').filter((line) => line.startsWith('| ') && !/^\|\s*(?:term\b|-)/.test(line));
const wrong = lines.flatMap((line) => {
  const [, term, path, name] = LINE.exec(line) ?? [];
  if (!term) return [`it cannot be read: ${line}`];
  const file = join(ROOT, 'docs', path);
  if (!existsSync(file)) return [`${term}: ${path} is not there`];
  const defines = new RegExp(
    `^export (?:abstract |async )?(?:class|interface|type|function\\*?|const) ${name}\\b`,
    'm',
  );
  return defines.test(readFileSync(file, 'utf8')) ? [] : [`${term}: ${path} does not define ${name}`];
});
for (const what of wrong) console.error(what);
console.log(`${lines.length} terms, ${wrong.length} wrong`);
process.exit(wrong.length === 0 && lines.length > 0 ? 0 : 1);

/** Writes docs/box.schema.json from the contract: the published form of the box file. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { format } from 'prettier';
import { boxSchema } from '../packages/contract/dist/index.js';
import { ROOT } from './run.mjs';

const file = join(ROOT, 'docs/box.schema.json');
writeFileSync(file, await format(JSON.stringify(boxSchema), { parser: 'json', printWidth: 120 }));

/** Run by the build: makes the template anew. */
import { rename, rm } from 'node:fs/promises';
import { openEmbeddedDatabase } from './database.js';
import { TEMPLATE } from './template.js';

await rm(TEMPLATE, { recursive: true, force: true });
const part = `${TEMPLATE}-part`;
await rm(part, { recursive: true, force: true });
const database = await openEmbeddedDatabase(part);
await database.close();
await rename(part, TEMPLATE);

/** Run by the build: makes the template anew. */
import { rename, rm } from 'node:fs/promises';
import { openEmbeddedDatabase } from './database.js';
import { startEmbedded } from './embedded.js';
import { TEMPLATE } from '../folders.js';

await rm(TEMPLATE, { recursive: true, force: true });
const part = `${TEMPLATE}-part`;
await rm(part, { recursive: true, force: true });
const database = await openEmbeddedDatabase(await startEmbedded(part));
await database.close();
await rename(part, TEMPLATE);

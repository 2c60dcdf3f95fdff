/** Run by the build: makes the template anew. */
import { rename, rm } from 'node:fs/promises';
import { sql } from 'drizzle-orm';
import { openEmbeddedDatabase } from './database.js';
import { startEmbedded } from './embedded.js';
import { TEMPLATE } from '../folders.js';

await rm(TEMPLATE, { recursive: true, force: true });
const part = `${TEMPLATE}-part`;
await rm(part, { recursive: true, force: true });
const database = await openEmbeddedDatabase(await startEmbedded(part));
// PostgreSQL keeps two databases to make further ones from, which are never made here: 600 of the 1,050 files that each first start
// would copy.
for (const name of ['template0', 'template1']) {
  await database.db.execute(sql`update pg_database set datistemplate = false where datname = ${name}`);
  await database.db.execute(sql`drop database ${sql.identifier(name)}`);
}
await database.close();
await rename(part, TEMPLATE);

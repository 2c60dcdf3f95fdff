#!/usr/bin/env node
/** The command: `serve`, `backup` and `restore` are the server's own programs, all others are here. */
import { existsSync } from 'node:fs';

const PROGRAMS = { serve: 'main', backup: 'backup', restore: 'backup' };

const [, , asked] = process.argv;
const program = PROGRAMS[asked];
const main = new URL(program ? `../../server/dist-bundle/${program}.js` : '../dist/main.js', import.meta.url);
if (!existsSync(main)) {
  console.error('usual-needle is not built yet: run `npm run build` first.');
  process.exit(2);
}
if (asked === 'serve') process.argv.splice(2, 1);
await import(main.href);

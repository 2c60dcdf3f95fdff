/**
 * Builds the page that rows are put into which are taken away: the interface's sheet, its styles and fonts, and the engine, as one
 * file. See `packages/web/src/take-away`.
 */
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { must, ROOT } from './run.mjs';

const web = join(ROOT, 'packages/web');
const built = join(web, 'dist/take-away/browser');
await must('npx', ['--no-install', 'ng', 'build', '--configuration', 'take-away'], { cwd: web });

const usual = { bundle: true, minify: true, write: false, target: 'es2022', logLevel: 'error', absWorkingDir: built };
const [script, styles] = await Promise.all([
  build({ ...usual, entryPoints: ['main.js'], format: 'iife', legalComments: 'none' }),
  // Browsers of today read the smaller of the two kinds of fonts.
  build({ ...usual, entryPoints: ['styles.css'], loader: { '.woff2': 'dataurl', '.woff': 'empty' } }),
]);
const code = script.outputFiles[0].text;
const style = styles.outputFiles[0].text.replaceAll('</style', '<\\/style');
// The script is compressed, and put into the page by a small one once it is unpacked; the policy allows these two and no other.
const loader = `(async()=>{const packed=document.getElementById('code');const bytes=Uint8Array.from(atob(packed.textContent),(c)=>c.charCodeAt(0));
const text=await new Response(new Blob([bytes]).stream().pipeThrough(new DecompressionStream('gzip'))).text();
packed.remove();const script=document.createElement('script');script.textContent=text;document.body.append(script)})()`;
const hashOf = (text) => `'sha256-${createHash('sha256').update(text).digest('base64')}'`;
const policy = [
  "default-src 'none'",
  `script-src ${hashOf(loader)} ${hashOf(code)}`,
  'worker-src blob:',
  // Angular and PrimeNG put their styles into the page.
  "style-src 'unsafe-inline'",
  'font-src data:',
  'img-src data:',
  "base-uri 'none'",
  "form-action 'none'",
].join('; ');
const page = `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta http-equiv="Content-Security-Policy" content="${policy}">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<title>Usual Needle</title>
<style>${style}</style>
</head>
<body><un-app></un-app>
<!--rows-->
<script type="text/plain" id="code">${gzipSync(code, { level: 9 }).toString('base64')}</script>
<script>${loader}</script>
</body>
</html>
`;
writeFileSync(join(web, 'dist/take-away.html'), page);

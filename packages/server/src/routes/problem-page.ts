/** Problems as pages, for whoever has gone to an address with a browser: they are told in words, not by a document for programs. */
import type { Problem } from '@usual-needle/contract';

/** Tells whether a page is asked for. @param accept the header, which browsers send with `text/html` first */
export function wantsPage(method: string, accept: string | undefined): boolean {
  return (method === 'GET' || method === 'HEAD') && /\btext\/html\b/i.test(accept ?? '');
}

const ESCAPED: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };
const escaped = (text: string): string => text.replace(/[&<>"]/g, (sign) => ESCAPED[sign]);

export function problemPage({ title, detail = '' }: Problem): string {
  return `<!doctype html>
<html lang="en">
  <head>
    <meta charset="utf-8" />
    <title>${escaped(title)} · Usual Needle</title>
    <meta name="viewport" content="width=device-width, initial-scale=1" />
    <meta name="color-scheme" content="light dark" />
  </head>
  <body style="font: 15px/1.5 system-ui, sans-serif; max-width: 46ch; margin: 18vh auto 0; padding: 0 24px">
    <main>
      <h1 style="font-size: 22px">${escaped(title)}</h1>
      <p>${escaped(detail)}</p>
      <p><a href="/">Go to the shelf</a></p>
    </main>
  </body>
</html>
`;
}

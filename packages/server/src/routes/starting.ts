/** The answers given until the database is open, while there is nothing to answer from: for programs a problem, for people a page. */
import { readFileSync } from 'node:fs';
import type { RequestListener } from 'node:http';
import { join } from 'node:path';
import { PROBLEM_TYPE } from '@usual-needle/contract';
import { isApi } from './api-path.js';
import { wantsPage } from './problem-page.js';

const HEALTH = {
  status: 'starting',
  tables: 0,
  tablesRead: 0,
  rows: 0,
  rowsRead: 0,
  searches: { shared: 0, worked: 0 },
};
const PROBLEM = {
  type: 'about:blank',
  title: 'The server is starting',
  status: 503,
  detail: 'It is there in a moment.',
};

/** The page has its style and its script in itself, and nothing of anybody else's. */
const PAGE_POLICY =
  "default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; connect-src 'self'; frame-ancestors 'none'";

/** @param folder of the built interface, which has the page (`packages/web/src/away`) */
export function startingAnswers(folder: string): RequestListener {
  let page: string | undefined;
  const pageText = (): string | undefined => {
    try {
      return (page ??= readFileSync(join(folder, 'away.html'), 'utf8'));
    } catch {
      // Without the interface there are only programs.
      return undefined;
    }
  };
  return ({ url = '/', method = 'GET', headers }, response) => {
    const [path] = url.split('?');
    const send = (status: number, type: string, body: string, more: Record<string, string> = {}): void => {
      response.writeHead(status, { 'Content-Type': type, 'Cache-Control': 'no-store', 'Retry-After': '1', ...more });
      response.end(method === 'HEAD' ? undefined : body);
    };
    if (path === '/api/health/live') return send(200, 'application/json', JSON.stringify({ status: 'live' }));
    if (path === '/api/health') return send(200, 'application/json', JSON.stringify(HEALTH));
    const asPage = !isApi(path) && wantsPage(method, headers.accept) ? pageText() : undefined;
    if (asPage === undefined) return send(503, PROBLEM_TYPE, JSON.stringify(PROBLEM));
    return send(503, 'text/html; charset=utf-8', asPage, {
      'Content-Security-Policy': PAGE_POLICY,
      'X-Content-Type-Options': 'nosniff',
    });
  };
}

/** Where things lie that are not code. What is built is one folder below the package: `dist`, and `dist-bundle` for a quick start. */
import { stat } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';

const beside = (path: string): string => fileURLToPath(new URL(`../${path}`, import.meta.url));

export const MIGRATIONS = beside('migrations');
/** See `data/template.ts`. */
export const TEMPLATE = beside('dist-template');
/** The interface, as it is built. */
export const INTERFACE = beside('../web/dist/browser');
/** The page that rows are put into which are taken away. */
export const TAKE_AWAY = beside('../web/dist/take-away.html');
export const DEMO = beside('../../demo');

export async function isThere(path: string): Promise<boolean> {
  return (await stat(path).catch(() => undefined)) !== undefined;
}

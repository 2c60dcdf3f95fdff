/** Talking to a server: its address as given, and what it answers. */
import type { Problem } from '@usual-needle/contract';
import { UsageProblem } from './options.js';

/** The server cannot be reached, or is in trouble: trying again may help. */
export class Unreachable extends UsageProblem {}

/** @throws Unreachable; UsageProblem with what the server says, or that it does not answer */
export async function asked<T>(address: URL, init: RequestInit = {}): Promise<T> {
  let response: Response;
  try {
    response = await fetch(address, init);
  } catch (error) {
    const { cause, message } = error as Error & { cause?: Error };
    throw new Unreachable(`${address.origin} does not answer: ${cause?.message ?? message}`);
  }
  const body = (await response.json().catch(() => undefined)) as unknown;
  if (response.ok) return body as T;
  const { title = `it answered ${response.status}`, detail } = (body ?? {}) as Partial<Problem>;
  const words = detail === undefined ? title : `${title}: ${detail}`;
  throw response.status >= 500 ? new Unreachable(words) : new UsageProblem(words);
}

/** @throws UsageProblem */
export function serverOf(text: string): URL {
  try {
    return new URL(/^https?:/.test(text) ? text : `http://${text}`);
  } catch {
    throw new UsageProblem(`“${text}” is no address of a server.`);
  }
}

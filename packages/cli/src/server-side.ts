/** Talking to a server: its address as given, and what it answers. */
import type { Problem } from '@usual-needle/contract';
import { UsageProblem } from './options.js';

/** The server cannot be reached, or is in trouble: trying again may help. */
export class Unreachable extends UsageProblem {}

/** How a server is named on the command line. */
export interface ServerOptions {
  readonly server: string;
  /** A token of a person, where the server wants to know who asks. */
  readonly token?: string;
}

/** A server that is asked, with the token that goes with each question. */
export class Server {
  private readonly address: URL;
  private readonly headers: Record<string, string>;

  /** @throws UsageProblem */
  constructor({ server, token }: ServerOptions) {
    try {
      this.address = new URL(/^https?:/.test(server) ? server : `http://${server}`);
    } catch {
      throw new UsageProblem(`“${server}” is no address of a server.`);
    }
    if (token !== undefined && !/^[\x21-\x7e]+$/.test(token)) throw new UsageProblem('The token is not one.');
    this.headers = token === undefined ? {} : { authorization: `Bearer ${token}` };
  }

  at(path: string): URL {
    return new URL(path, this.address);
  }

  /** Fetches an address of the server, with the token. */
  fetch(address: URL, init: RequestInit = {}): Promise<Response> {
    return fetch(address, { ...init, headers: { ...(init.headers as Record<string, string>), ...this.headers } });
  }

  /** @throws Unreachable; UsageProblem with what the server says, or that it does not answer */
  async asked<T>(address: URL, init: RequestInit = {}): Promise<T> {
    let response: Response;
    try {
      response = await this.fetch(address, init);
    } catch (error) {
      const { cause, message } = error as Error & { cause?: Error };
      throw new Unreachable(`${address.origin} does not answer: ${cause?.message ?? message}`);
    }
    const body = (await response.json().catch(() => undefined)) as unknown;
    if (response.ok) return body as T;
    throw refusal(response.status, body);
  }
}

/** The error that a refusal becomes, in the server's words. */
export function refusal(status: number, body: unknown): UsageProblem {
  const { title = `it answered ${status}`, detail } = (body ?? {}) as Partial<Problem>;
  const words = detail === undefined ? title : `${title}: ${detail}`;
  if (status >= 500) return new Unreachable(words);
  return new UsageProblem(status === 401 ? `${words} A token is given by --token, or by USUAL_NEEDLE_TOKEN.` : words);
}

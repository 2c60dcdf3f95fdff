/** A real server over a data folder of its own, talked to through HTTP. */
import { mkdtemp, rm } from 'node:fs/promises';
import { request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { startServer, type RunningServer, type ServerOptions } from '@usual-needle/server';
import { mustBeAsDescribed } from './as-described.js';
import { heardLog } from './heard.js';

export interface Reply {
  readonly status: number;
  readonly type: string;
  readonly headers: Headers;
  // What came back is what is being tested; its shape is for the expectation to say.
  readonly body: Record<string, never>;
}

export class Running {
  private constructor(
    readonly folder: string,
    readonly server: RunningServer,
  ) {}

  static async start(demo: boolean, folder?: string, options: Partial<ServerOptions> = {}): Promise<Running> {
    const data = folder ?? (await mkdtemp(join(tmpdir(), 'usual-needle-test-')));
    const log = heardLog();
    const server = await startServer({ port: 0, host: '127.0.0.1', data, demo, warmUp: false, log, ...options });
    await server.loaded;
    return new Running(data, server);
  }

  async ask(method: string, path: string, body?: unknown, headers: Record<string, string> = {}): Promise<Reply> {
    const text = typeof body === 'string' || body instanceof Uint8Array;
    const response = await fetch(this.server.address + path, {
      method,
      headers: { ...(body !== undefined && { 'content-type': text ? 'text/csv' : 'application/json' }), ...headers },
      ...(body !== undefined && { body: text ? (body as NonNullable<RequestInit['body']>) : JSON.stringify(body) }),
    });
    const type = (response.headers.get('content-type') ?? '').split(';')[0];
    const answer: unknown = type.endsWith('json') ? await response.json() : { text: await response.text() };
    mustBeAsDescribed(method, path, response.status, type, answer);
    return { status: response.status, type, headers: response.headers, body: answer as Reply['body'] };
  }

  /** As `ask`, with headers that `fetch` keeps for itself. @returns the status and what came back */
  raw(method: string, path: string, headers: Record<string, string>, body?: string): Promise<[number, string]> {
    const { hostname, port } = new URL(this.server.address);
    return new Promise((done, fail) => {
      const asked = request({ hostname, port, method, path, headers }, (response) => {
        let text = '';
        response.on('data', (data: Buffer) => (text += data.toString()));
        response.on('end', () => done([response.statusCode ?? 0, text]));
      });
      asked.on('error', fail);
      asked.end(body);
    });
  }

  find(table: number, text: string, threaded: readonly string[], more: object = {}): Promise<Reply> {
    const question = { threaded, strands: [{ verb: 'find', text }] };
    return this.ask('POST', `/api/tables/${table}/search`, { question, ...more });
  }

  /** Stops the server; the folder stays. */
  stop(): Promise<void> {
    return this.server.stop();
  }

  async end(): Promise<void> {
    await this.stop();
    await rm(this.folder, { recursive: true, force: true });
  }
}

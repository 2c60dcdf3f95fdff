/** A server of another house, whose files tables refresh themselves from: it answers as it is told to, and remembers what it was asked. */
import { createServer, type IncomingHttpHeaders, type Server, type ServerResponse } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';

export class Depot {
  content = '';
  etag: string | undefined;
  /** Answers in another way than with the content. */
  otherwise: ((response: ServerResponse, path: string) => void) | undefined;
  readonly asked: { path: string; headers: IncomingHttpHeaders }[] = [];

  private constructor(private readonly server: Server) {
    server.on('request', (request, response) => {
      const path = request.url ?? '';
      this.asked.push({ path, headers: request.headers });
      if (this.otherwise) return this.otherwise(response, path);
      if (this.etag !== undefined) {
        response.setHeader('etag', this.etag);
        if (request.headers['if-none-match'] === this.etag) return response.writeHead(304).end();
      }
      response.setHeader('content-type', 'text/csv');
      return response.end(this.content);
    });
  }

  static async open(): Promise<Depot> {
    const server = createServer();
    server.listen(0, '127.0.0.1');
    await once(server, 'listening');
    return new Depot(server);
  }

  get address(): string {
    return `http://127.0.0.1:${(this.server.address() as AddressInfo).port}`;
  }

  /** Breaks off whatever is on its way. */
  async drop(): Promise<void> {
    this.server.closeAllConnections();
    await new Promise((done) => setTimeout(done, 10));
  }

  async close(): Promise<void> {
    this.server.closeAllConnections();
    this.server.close();
    await once(this.server, 'close');
  }
}

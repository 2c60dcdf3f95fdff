import { createServer } from 'node:http';
import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { Server } from '../dist/server-side.js';
import { ByAsking } from '../dist/watch-by-asking.js';

describe('rows that begin to match, by asking', () => {
  it('are told once, though the server fails in the middle, and again only after they ceased to match', async () => {
    let matching = Array.from({ length: 3 }, (_, i) => i);
    let fails = false;
    const server = createServer((request, response) => {
      let body = '';
      request.on('data', (part: Buffer) => (body += part.toString()));
      request.on('end', () => {
        const { offset, limit } = JSON.parse(body) as { offset: number; limit: number };
        if (fails && offset > 0) return response.writeHead(500).end('{}');
        const rows = matching.slice(offset, offset + limit).map((id) => ({ id, cells: [String(id)] }));
        return response.end(JSON.stringify({ rows, shown: matching.length, change: 1, problem: null }));
      });
    }).listen(0, '127.0.0.1');
    await once(server, 'listening');
    const asked = new Server({ server: `127.0.0.1:${(server.address() as AddressInfo).port}` });
    const path = asked.at('/api/tables/1');
    const watched = await ByAsking.begun(asked, path, {
      columns: [],
      question: { threaded: [], strands: [] },
      shown: ['No'],
    });
    const told: string[] = [];
    const tell = async (): Promise<void> => {
      for await (const [cell] of watched.since()) told.push(cell);
    };
    matching = Array.from({ length: 1_200 }, (_, i) => i);
    fails = true;
    await expectAsync(tell()).toBeRejected();
    expect(told.length).toBe(497);
    fails = false;
    await tell();
    expect(told.map(Number)).toEqual(Array.from({ length: 1_197 }, (_, i) => i + 3));
    matching = [0];
    await tell();
    matching = [0, 7];
    await tell();
    expect(told.slice(1_197)).toEqual(['7']);
    server.close();
  });
});

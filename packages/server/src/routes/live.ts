/** /api/live: searches over a standing connection, each message validated as a request is. */
import type { Server } from 'node:http';
import { LIVE_PATH, searchRequestSchema, type LiveQuestion } from '@usual-needle/contract';
import type { Logger } from 'pino';
import { WebSocketServer } from 'ws';
import type { Engine } from '../engine/engine.js';
import { HttpProblem, problemOf } from './problems.js';
import { bodyOf } from './validate.js';

/** Largest message taken, in bytes. */
const MESSAGE_LIMIT = 2 * 1024 * 1024;

const question = bodyOf<LiveQuestion>({
  type: 'object',
  additionalProperties: false,
  required: ['id', 'table', 'request'],
  properties: { id: { type: 'integer' }, table: { type: 'integer' }, request: searchRequestSchema },
});

function read(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new HttpProblem(400, 'The message is not JSON');
  }
}

/** @returns what closes the connections */
export function liveSearches(server: Server, engine: Engine, log: Logger): () => void {
  const sockets = new WebSocketServer({ server, path: LIVE_PATH, maxPayload: MESSAGE_LIMIT, perMessageDeflate: false });
  sockets.on('connection', (socket) => {
    const answer = async (text: string): Promise<void> => {
      let id = -1;
      try {
        const message = read(text);
        if (typeof (message as LiveQuestion).id === 'number') ({ id } = message as LiveQuestion);
        const { table, request } = question(message);
        const json = await engine.search(table, request);
        if (json === undefined) throw new HttpProblem(404, 'There is no such table');
        socket.send(`${id} 200 ${json}`);
      } catch (error) {
        const problem = problemOf(error);
        if (problem.status >= 500) log.error({ err: error }, 'live search failed');
        socket.send(`${id} ${problem.status} ${JSON.stringify(problem)}`);
      }
    };
    socket.on('message', (data) => void answer((data as Buffer).toString()));
    socket.on('error', () => socket.terminate());
  });
  return () => {
    for (const socket of sockets.clients) socket.close(1001);
    sockets.close();
  };
}

/** /api/standing: searches over a standing connection, each message validated as a request is. */
import type { IncomingMessage, Server } from 'node:http';
import type { Duplex } from 'node:stream';
import {
  LARGEST_EARLIER,
  STANDING_MESSAGE_LIMIT,
  STANDING_PATH,
  STANDING_QUESTIONS_LIMIT,
  searchRequestSchema,
  type Scope,
  type SearchRequest,
  type StandingQuestion,
  type WireQuestion,
} from '@usual-needle/contract';
import type { Logger } from 'pino';
import { WebSocketServer, type WebSocket } from 'ws';
import type { Access } from '../access/access.js';
import type { Origins } from '../access/origins.js';
import { NO_SCOPE } from '../access/scopes.js';
import type { SharedBoxes } from '../access/shared-boxes.js';
import { Gathering } from '../threads/gathering.js';
import type { SearchThreads } from '../threads/search-threads.js';
import type { QuestionsTogether } from '../threads/questions.js';
import { noTable } from './found.js';
import { HttpProblem, NotThere } from './http-problem.js';
import { answerOf, OVERTAKEN_ANSWER } from './outcomes.js';
import { problemOf } from './problems.js';
import { askedOf } from './shared.js';
import { bodyOf } from './validate.js';

/** A client that has not read so many bytes is one that does not read. */
const UNREAD_LIMIT = 4 * 1024 * 1024;
/** The time between two pings, in milliseconds; a client that has not answered the one before has gone. */
const PING_MS = 30_000;

const question = bodyOf<StandingQuestion>({
  type: 'object',
  additionalProperties: false,
  required: ['id', 'request'],
  oneOf: [{ required: ['table'] }, { required: ['box'] }],
  properties: {
    id: { type: 'integer', minimum: 0, maximum: Number.MAX_SAFE_INTEGER },
    table: { type: 'integer', minimum: 0, maximum: LARGEST_EARLIER },
    box: { type: 'string', minLength: 1, maxLength: 200 },
    request: searchRequestSchema,
  },
});

function read(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    throw new HttpProblem(400, 'The message is not JSON');
  }
}

/** Number that a message has given itself, if it is one; -1 otherwise. */
function idOf(message: unknown): number {
  const { id } = (message ?? {}) as { id?: unknown };
  return typeof id === 'number' && Number.isSafeInteger(id) && id >= 0 ? id : -1;
}

const NEXT_LINE = Buffer.from('\n');

/** Replies that go together, one a line. */
function joined(replies: readonly Buffer[]): Buffer {
  return Buffer.concat(replies.flatMap((reply, i) => (i > 0 ? [NEXT_LINE, reply] : [reply])));
}

/** A question that a message puts: its number, and what is asked of which table within which scope. */
interface MadeOut {
  readonly id: number;
  readonly table: number;
  readonly scope: Scope;
  readonly request: SearchRequest;
}

/** The parts that a standing connection works with. */
interface Around {
  readonly threads: SearchThreads;
  readonly origins: Origins;
  readonly access: Access;
  readonly shared: SharedBoxes;
  readonly log: Logger;
}

/** A client of the standing connection. Its sessions are its own, so that what it asked is dropped when it goes. */
class Client {
  private static next = 0;
  private readonly name = `socket ${Client.next++}`;
  private readonly sessions = new Set<string>();
  answersPings = true;

  constructor(
    readonly socket: WebSocket,
    private readonly opened: IncomingMessage,
    private readonly around: Around,
  ) {
    socket.on('message', (data) => this.receive((data as Buffer).toString()));
    socket.on('pong', () => (this.answersPings = true));
    socket.on('error', () => socket.terminate());
    socket.on('close', () => {
      around.threads.questions.leave(this.name, this.sessions);
    });
  }

  /** @param text in UTF-8 */
  private send(text: Buffer): void {
    if (this.socket.bufferedAmount > UNREAD_LIMIT) this.socket.terminate();
    else this.socket.send(text, { binary: false }, () => undefined);
  }

  private receive(text: string): void {
    const send = (reply: Buffer): void => this.send(reply);
    try {
      const message = read(text);
      if (!Array.isArray(message)) return void this.answer(message, send);
      if (message.length === 0 || message.length > STANDING_QUESTIONS_LIMIT)
        throw new HttpProblem(400, `A message puts 1 to ${STANDING_QUESTIONS_LIMIT} questions`);
      void this.answerTogether(message);
    } catch (error) {
      send(this.refusal(-1, error));
    }
  }

  /** Answers the questions of one message. All are made out first, since they are put at once. */
  private async answerTogether(message: readonly unknown[]): Promise<void> {
    const replies = new Gathering<Buffer>((some) => this.send(joined(some)), message.length);
    const { questions } = this.around.threads;
    const madeOut = await Promise.all(
      message.map((one) => this.madeOut(one).catch((error: unknown) => this.refusal(idOf(one), error))),
    );
    const together = questions.together(this.name, () => this.socket.readyState === this.socket.OPEN);
    for (const one of madeOut) {
      if (Buffer.isBuffer(one)) replies.add(one);
      else void this.ask(one, (reply) => replies.add(reply), together);
    }
    void together.put();
  }

  private async answer(message: unknown, reply: (text: Buffer) => void): Promise<void> {
    try {
      await this.ask(await this.madeOut(message), reply);
    } catch (error) {
      reply(this.refusal(idOf(message), error));
    }
  }

  private async ask(
    { id, table, scope, request }: MadeOut,
    reply: (text: Buffer) => void,
    together?: QuestionsTogether,
  ): Promise<void> {
    try {
      const outcome = await this.around.threads.questions.search(scope, table, request, this.name, together);
      reply(Buffer.concat([Buffer.from(`${id} 200 `), answerOf(outcome, table, OVERTAKEN_ANSWER)]));
    } catch (error) {
      reply(this.refusal(id, error));
    }
  }

  /** Makes out what a message asks, of which table, within which scope. @throws HttpProblem */
  private async madeOut(message: unknown): Promise<MadeOut> {
    const { table: named, box, request } = question(message);
    const session = `${this.name} ${request.session ?? ''}`;
    if (request.session !== undefined) this.sessions.add(session);
    const asked = request.session === undefined ? request : { ...request, session };
    const { table, scope, question: put } = await this.found(named, box, request.question);
    return { id: idOf(message), table, scope, request: put ? { ...asked, question: put } : asked };
  }

  /** The table and the scope that a question is of; of a box also what the question becomes. @throws HttpProblem */
  private async found(
    table: number | undefined,
    slug: string | undefined,
    asked: WireQuestion,
  ): Promise<{ table: number; scope: Scope; question?: WireQuestion }> {
    const { access, shared, threads } = this.around;
    // Looked up anew every two seconds: who was disabled meanwhile asks nothing more.
    const principal = await access.identify(this.opened);
    if (principal.is === 'person' && principal.token?.kind === 'refreshes') throw noTable(table ?? 0);
    if (slug !== undefined) {
      const box = await shared.open(slug, principal);
      if (!box) throw new NotThere('box');
      return { table: box.table.id, ...askedOf(box, asked) };
    }
    const scope = threads.scopeFor(principal, table!);
    if (scope === NO_SCOPE) throw noTable(table!);
    return { table: table!, scope };
  }

  private refusal(id: number, error: unknown): Buffer {
    const problem = problemOf(error);
    if (problem.status >= 500 && problem.status !== 503)
      this.around.log.error({ err: error }, 'standing search failed');
    return Buffer.from(`${id} ${problem.status} ${JSON.stringify(problem)}`);
  }
}

function refuse(socket: Duplex, status: number, title: string): void {
  const body = JSON.stringify({ type: 'about:blank', title, status });
  socket.end(
    `HTTP/1.1 ${status} Refused\r\nContent-Type: application/problem+json\r\nContent-Length: ${Buffer.byteLength(body)}\r\nConnection: close\r\n\r\n${body}`,
  );
}

/** @returns what closes the connections, and how many there are */
export function standingSearches(server: Server, around: Around): { close: () => void; readers: () => number } {
  const { origins } = around;
  const sockets = new WebSocketServer({
    noServer: true,
    maxPayload: STANDING_MESSAGE_LIMIT,
    perMessageDeflate: false,
  });
  const clients = new Set<Client>();
  const upgrade = (request: IncomingMessage, socket: Duplex, head: Buffer): void => {
    socket.on('error', () => socket.destroy());
    if (new URL(request.url ?? '/', 'http://x').pathname !== STANDING_PATH)
      return refuse(socket, 404, 'There is nothing at this address');
    const refused = origins.refusal(request.headers, false);
    if (refused) return refuse(socket, refused.status, refused.title);
    sockets.handleUpgrade(request, socket, head, (opened) => {
      const client = new Client(opened, request, around);
      clients.add(client);
      opened.on('close', () => clients.delete(client));
    });
  };
  server.on('upgrade', upgrade);
  const pings = setInterval(() => {
    for (const client of clients) {
      if (!client.answersPings) client.socket.terminate();
      else {
        client.answersPings = false;
        client.socket.ping();
      }
    }
  }, PING_MS);
  const close = (): void => {
    clearInterval(pings);
    server.off('upgrade', upgrade);
    for (const { socket } of clients) {
      socket.close(1001);
      // One that does not answer the closing is not waited for.
      setTimeout(() => socket.terminate(), 1_000).unref();
    }
    sockets.close();
  };
  return { close, readers: () => clients.size };
}

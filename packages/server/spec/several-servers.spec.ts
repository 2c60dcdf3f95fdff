import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { readFile, writeFile } from 'node:fs/promises';
import { createServer, type AddressInfo } from 'node:net';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { Postgres } from './postgres.js';
import { end, folderOf, forget, isInstalled, startProgram, type Program } from './starting-program.js';

const CONFIGURATION = fileURLToPath(new URL('../../../docs/nginx.conf', import.meta.url));
const READERS = 20;
const PAUSE_MS = 50;
/** No reader waits for longer, in milliseconds, whatever ends. */
const LONGEST_MS = 5_000;

/** Ports that nobody has. */
async function freePorts(count: number): Promise<number[]> {
  const servers = await Promise.all(
    Array.from({ length: count }, async () => {
      const server = createServer().listen(0, '127.0.0.1');
      await once(server, 'listening');
      return server;
    }),
  );
  const ports = servers.map((server) => (server.address() as AddressInfo).port);
  await Promise.all(servers.map((server) => new Promise((done) => server.close(done))));
  return ports;
}

describe('two servers on one PostgreSQL, behind nginx as it is configured in the docs', () => {
  it('answer on where one is killed under load: no reader waits for more than five seconds', async () => {
    if (!isInstalled('nginx'))
      spawnSync('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'nginx-light'], { stdio: 'ignore' });
    if (!isInstalled('nginx')) return pending('Debian’s nginx is not here, and may not be installed');
    const postgres = await Postgres.find();
    if (!postgres) return pending('Debian’s postgresql is not here, and may not be installed');
    const folder = await folderOf('nginx');
    const [front, ...ports] = await freePorts(3);
    const programs: (Program | undefined)[] = [];
    const start = async (i: number): Promise<void> => {
      const more = ['--port', String(ports[i]), '--proxy', '--open'];
      const env = { DATABASE_URL: postgres.url, LOG_LEVEL: 'silent', USUAL_NEEDLE_KEY: 'one key' };
      programs[i] = await startProgram(join(folder, `data-${i}`), more, env);
    };
    let nginx: ChildProcess | undefined;
    try {
      await Promise.all([start(0), start(1)]);
      const text = (await readFile(CONFIGURATION, 'utf8'))
        .replace('listen 4780', `listen 127.0.0.1:${front}`)
        .replace('127.0.0.1:4781', `127.0.0.1:${ports[0]}`)
        .replace('127.0.0.1:4782', `127.0.0.1:${ports[1]}`);
      const main = `daemon off;\nerror_log stderr crit;\npid ${folder}/pid;\nevents {}\nhttp {\naccess_log off;\nclient_body_temp_path ${folder}/body;\nproxy_temp_path ${folder}/proxy;\nfastcgi_temp_path ${folder}/f;\nuwsgi_temp_path ${folder}/u;\nscgi_temp_path ${folder}/s;\n${text}\n}\n`;
      await writeFile(join(folder, 'nginx.conf'), main);
      nginx = spawn('nginx', ['-c', join(folder, 'nginx.conf'), '-p', folder], { stdio: 'inherit' });
      const address = `http://127.0.0.1:${front}`;
      const made = async (name: string): Promise<number> => {
        for (let tries = 0; ; tries++) {
          const rows = Array.from({ length: 2_000 }, (_, i) => `${i},thing ${i}\n`).join('');
          const reply = await fetch(`${address}/api/tables?name=${name}`, {
            method: 'POST',
            headers: { 'content-type': 'text/csv' },
            body: `No,Thing\n${rows}`,
          }).catch(() => undefined);
          if (reply?.ok) return ((await reply.json()) as { id: number }).id;
          if (tries > 50) throw new Error(`${reply?.status}`);
          await new Promise((done) => setTimeout(done, 100));
        }
      };
      const tables = [await made('One'), await made('Two'), await made('Three'), await made('Four')];
      let isOver = false;
      let longest = 0;
      let answers = 0;
      let edited = 0;
      const ask = (path: string, body: object): Promise<Response | undefined> =>
        fetch(address + path, {
          method: 'POST',
          headers: { 'content-type': 'application/json' },
          body: JSON.stringify(body),
          signal: AbortSignal.timeout(LONGEST_MS),
        }).catch(() => undefined);
      /** Asks until it is answered, as a page does. */
      const answered = async (
        path: string,
        body: object,
        isRight: (answer: Record<string, unknown>) => boolean,
      ): Promise<void> => {
        const begun = performance.now();
        for (;;) {
          const reply = await ask(path, body);
          if (reply?.ok && isRight((await reply.json()) as Record<string, unknown>)) break;
          await new Promise((done) => setTimeout(done, 100));
          if (performance.now() - begun > 60_000) throw new Error(`${path}: ${reply?.status}`);
        }
        longest = Math.max(longest, performance.now() - begun);
        answers++;
      };
      const readers = Array.from({ length: READERS }, async (_, i) => {
        for (let n = 0; !isOver; n++) {
          const question = { threaded: ['Thing'], strands: [{ verb: 'find', text: `thing ${(n * 7 + i) % 100}` }] };
          await answered(
            `/api/tables/${tables[i % 4]}/search`,
            { question },
            ({ total }) => (total as number) >= 2_000,
          );
          await new Promise((done) => setTimeout(done, PAUSE_MS));
        }
      });
      const editor = (async () => {
        for (; !isOver; edited++) {
          const added = {
            key: `several-servers-${edited}`,
            kind: 'added',
            columns: ['Thing'],
            added: [[`new ${edited}`]],
          };
          await answered(`/api/tables/${tables[0]}/changes`, added, () => true);
          await new Promise((done) => setTimeout(done, PAUSE_MS));
        }
      })();
      const rest = (ms: number): Promise<unknown> => new Promise((done) => setTimeout(done, ms));
      for (const i of [0, 1]) {
        await rest(2_000);
        await end(programs[i]!.child, 'SIGKILL');
        await rest(2_000);
        await start(i);
      }
      await rest(1_000);
      isOver = true;
      await Promise.all([...readers, editor]);
      expect(longest).toBeLessThan(LONGEST_MS);
      expect(answers).toBeGreaterThan(READERS * 10);
      // What was edited is there once, whichever server was killed in the middle of it.
      const { total } = (await (await ask(`/api/tables/${tables[0]}/search`, {
        question: { threaded: ['Thing'] },
      }))!.json()) as { total: number };
      expect(total).toBe(2_000 + edited);
    } finally {
      nginx?.kill('SIGTERM');
      await Promise.all(
        programs.map((program) => program && program.child.exitCode === null && end(program.child, 'SIGKILL')),
      );
      await postgres.end();
      await forget(folder);
    }
  });
});

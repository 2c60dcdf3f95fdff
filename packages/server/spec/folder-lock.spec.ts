import { createServer } from 'node:net';
import { mkdtemp, rm } from 'node:fs/promises';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FolderInUse, lockFolder } from '../dist/data/folder-lock.js';

describe('the lock of a folder', () => {
  let folder: string;
  beforeEach(async () => (folder = await mkdtemp(join(tmpdir(), 'usual-needle-lock-'))));
  afterEach(() => rm(folder, { recursive: true, force: true }));

  /** As a version of before held it: one socket of a fixed name, which says something of its own. */
  const former = (name = 'in-use.sock'): Promise<() => Promise<void>> =>
    new Promise((done, fail) => {
      const server = createServer((socket) => socket.end('4711 0.123'));
      server.on('error', fail);
      server.listen(join(folder, name), () => done(() => new Promise((closed) => server.close(() => closed()))));
    });

  it('is not given while a former version has it, and is once that has ended', async () => {
    const leave = await former();
    await expectAsync(lockFolder(folder)).toBeRejectedWithError(FolderInUse);
    await leave();
    const release = await lockFolder(folder);
    await release();
  });

  it('is seen by a former version, which asks its own socket only', async () => {
    const release = await lockFolder(folder);
    await expectAsync(former()).toBeRejected();
    const said = await new Promise<string>((done) => {
      let text = '';
      connect(join(folder, 'in-use.sock'))
        .on('data', (data) => (text += data.toString()))
        .on('end', () => done(text));
    });
    expect(said).not.toBe('');
    await expectAsync(lockFolder(folder)).toBeRejectedWithError(FolderInUse);
    await release();
    await (
      await former()
    )();
  });

  it('is asked of any socket of a later version that keeps to the name', async () => {
    const leave = await former('in-use-by-a-later-one.sock');
    await expectAsync(lockFolder(folder)).toBeRejectedWithError(FolderInUse);
    await leave();
  });
});

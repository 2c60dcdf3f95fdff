/**
 * PGlite such that what is acknowledged is on the disk: by itself it starts with `-F`, which never waits for the disk, and its
 * file system does not pass `fsync` on. Here a commit is one `fsync` of the write-ahead log.
 *
 * Source: PostgreSQL documentation, 30.1 (reliability) and 19.5 (`fsync`, `wal_sync_method`).
 */
import { fsyncSync } from 'node:fs';
import { PGlite, type PGliteOptions } from '@electric-sql/pglite';
import { NodeFS } from '@electric-sql/pglite/nodefs';

/** The part that is needed of the module that PostgreSQL is compiled to. */
interface WithFiles {
  readonly FS: {
    readonly filesystems: {
      readonly NODEFS: { readonly stream_ops: { fsync?: (stream: { readonly nfd?: number }) => number } };
    };
  };
}

/** PostgreSQL, compiled. */
export type Compiled = NonNullable<PGliteOptions['pgliteWasmModule']>;

class SyncedFiles extends NodeFS {
  override async init(...args: Parameters<NodeFS['init']>): ReturnType<NodeFS['init']> {
    const { emscriptenOpts } = await super.init(...args);
    const sync = (module: unknown): void => {
      (module as WithFiles).FS.filesystems.NODEFS.stream_ops.fsync = ({ nfd }) => {
        if (nfd !== undefined) fsyncSync(nfd);
        return 0;
      };
    };
    const before = (emscriptenOpts as { preRun?: unknown[] }).preRun ?? [];
    return { emscriptenOpts: { ...emscriptenOpts, preRun: [sync, ...before] } as typeof emscriptenOpts };
  }
}

/** A database that is spoken to over a socket only: types are the driver's affair, and need not be read here. */
class Spoken extends PGlite {
  override _initArrayTypes(): Promise<void> {
    return Promise.resolve();
  }
}

/** @param pgliteWasmModule PostgreSQL as it was compiled before */
export async function openDurable(folder: string, pgliteWasmModule: Compiled): Promise<PGlite> {
  const startParams = [
    ...PGlite.defaultStartParams.filter((param) => param !== '-F'),
    '-c',
    'fsync=on',
    '-c',
    'wal_sync_method=fsync',
  ];
  const db = new Spoken({ fs: new SyncedFiles(folder), startParams, pgliteWasmModule });
  await db.waitReady;
  return db;
}

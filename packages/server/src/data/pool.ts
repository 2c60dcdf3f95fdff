import pg from 'pg';

type Release = pg.PoolClient['release'];

/** Gives a connection that breaks off while somebody has it back to the pool, and takes no harm from its being given back again. */
function givenBackOnce(client: pg.PoolClient): pg.PoolClient {
  const release = client.release.bind(client) as Release;
  let back = false;
  const giveBack = (error?: Error | boolean): void => {
    if (back) return;
    back = true;
    client.off('end', lost);
    release(error);
  };
  const lost = (): void => giveBack(true);
  client.once('end', lost);
  client.release = giveBack;
  return client;
}

/**
 * Connections to the database, none of which is lost when it breaks off. Drizzle keeps the connection of a transaction for good if its
 * `begin` fails; eight of those, and nobody could be served until the server is started again.
 */
export class Pool extends pg.Pool {
  constructor(config: pg.PoolConfig) {
    super(config);
    // A connection that breaks while idle is replaced at the next query; without a listener it would end the process.
    this.on('error', () => undefined);
    // So would one that breaks while it is in use, whose query fails besides.
    this.on('connect', (client) => client.on('error', () => undefined));
  }

  override connect(): Promise<pg.PoolClient>;
  override connect(callback: Parameters<pg.Pool['connect']>[0]): void;
  override connect(callback?: Parameters<pg.Pool['connect']>[0]): Promise<pg.PoolClient> | void {
    // The pool's own queries come by a callback, and give back what they had whatever happens.
    if (callback) return void super.connect(callback);
    return super.connect().then(givenBackOnce);
  }
}

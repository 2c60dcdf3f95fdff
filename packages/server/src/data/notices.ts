/** The notices of other servers on the same PostgreSQL, heard by LISTEN, on a connection of its own that is opened again whenever it breaks. */
import pg from 'pg';

/** Where servers on one database tell each other of tables that are not what they were. */
export const CHANNEL = 'usual_needle_changes';

/** Waits before connecting again, in milliseconds; the last one over and over. */
const WAITS = [200, 1_000, 5_000];

export interface Listening {
  close(): Promise<void>;
}

/**
 * @param heard gets what was said @param back is called whenever it listens again: what was said meanwhile was not heard
 * @returns resolves once it listens
 */
export async function listen(
  url: string,
  channel: string,
  heard: (text: string) => void,
  back: () => void,
): Promise<Listening> {
  let closed = false;
  let failures = 0;
  let client: pg.Client | undefined;
  let timer: ReturnType<typeof setTimeout> | undefined;
  const again = (): void => {
    if (closed || timer) return;
    timer = setTimeout(
      () => {
        timer = undefined;
        void connect(true);
      },
      WAITS[Math.min(failures++, WAITS.length - 1)],
    );
  };
  const connect = async (once: boolean): Promise<void> => {
    const next = new pg.Client({ connectionString: url, keepAlive: true, connectionTimeoutMillis: 10_000 });
    client = next;
    next.on('error', () => undefined);
    next.on('end', again);
    next.on('notification', ({ payload = '' }) => heard(payload));
    try {
      await next.connect();
      await next.query(`listen ${channel}`);
      failures = 0;
      if (once) back();
    } catch {
      await next.end().catch(() => undefined);
      again();
    }
  };
  await connect(false);
  return {
    close: async () => {
      closed = true;
      clearTimeout(timer);
      await client?.end().catch(() => undefined);
    },
  };
}

/**
 * Limits of tries to sign in: 10 a minute for one account, 100 from one address. An address that an account has signed in from has
 * tries of its own, so that a stranger who uses up the others' does not lock the person out.
 */
import { LRUCache } from 'lru-cache';
import { RateLimiterMemory } from 'rate-limiter-flexible';
import { nameKey } from './names.js';

const MINUTE_S = 60;
/** Accounts, with the addresses that they sign in from, that are remembered. */
const REMEMBERED = 10_000;

export class SignInLimits {
  private readonly ofAccount = new RateLimiterMemory({ keyPrefix: 'account', points: 10, duration: MINUTE_S });
  private readonly ofAddress = new RateLimiterMemory({ keyPrefix: 'address', points: 100, duration: MINUTE_S });
  private readonly known = new LRUCache<string, true>({ max: REMEMBERED });

  /** Counts a try. @returns seconds to wait, where there were too many; 0 otherwise */
  async tried(name: string, address: string): Promise<number> {
    const waits = await Promise.all([
      waitOf(this.ofAddress.consume(address)),
      waitOf(this.ofAccount.consume(this.keyOf(name, address))),
    ]);
    return Math.max(...waits);
  }

  /** Counts a try with a link, of which nobody can guess any. @returns seconds to wait, where there were too many; 0 otherwise */
  triedLink(address: string): Promise<number> {
    return waitOf(this.ofAddress.consume(address));
  }

  private keyOf(name: string, address: string): string {
    const own = `${address} ${nameKey(name)}`;
    return this.known.has(own) ? own : `anywhere ${nameKey(name)}`;
  }

  /** Remembers that an account has signed in from an address, and forgets the tries before. */
  async succeeded(name: string, address: string): Promise<void> {
    await this.ofAccount.delete(this.keyOf(name, address));
    this.known.set(`${address} ${nameKey(name)}`, true);
  }
}

function waitOf(consumed: Promise<unknown>): Promise<number> {
  return consumed.then(
    () => 0,
    (refused: { msBeforeNext?: number }) => Math.ceil((refused.msBeforeNext ?? MINUTE_S * 1000) / 1000),
  );
}

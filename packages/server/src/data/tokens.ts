/** Tokens of people: known by hashes only, each with what it may do and a day on which it ends. */
import { and, asc, count, eq, gt, lt, sql } from 'drizzle-orm';
import type { MadeToken, TokenKind, TokenRequest, TokenSummary } from '@usual-needle/contract';
import { hashOf, newSecret } from '../access/secrets.js';
import type { Database } from './database.js';
import { people, tokens } from './schema.js';

/** The beginning of every token, by which one that got into a text is found there. */
export const TOKEN_MARK = 'needle-';

/** A token, and whose it is. */
export interface FoundToken {
  readonly id: number;
  readonly personId: number;
  readonly name: string;
  readonly kind: TokenKind;
  readonly tables: readonly number[] | null;
}

function summaryOf({ id, name, kind, tables, until, usedAt }: typeof tokens.$inferSelect): TokenSummary {
  return {
    ...{ id, name, kind, tables },
    until: new Date(until).toISOString(),
    used: usedAt && new Date(usedAt).toISOString(),
  };
}

export class Tokens {
  constructor(private readonly db: Database['db']) {}

  async make(personId: number, { name, kind, tables, days }: TokenRequest): Promise<MadeToken> {
    const token = TOKEN_MARK + newSecret();
    const [made] = await this.db
      .insert(tokens)
      .values({
        ...{ hash: hashOf(token), personId, name: name.trim(), kind, tables: tables ?? null },
        until: sql`now() + make_interval(days => ${days})`,
      })
      .returning({ id: tokens.id, until: tokens.until });
    return { id: made.id, token, until: new Date(made.until).toISOString() };
  }

  /** Finds a token before its end. Whether its person may still sign in is theirs to say (`People.byId`). */
  async find(token: string): Promise<FoundToken | undefined> {
    const { id, personId, name, kind, tables } = tokens;
    const [found] = await this.db
      .select({ id, personId, name, kind, tables })
      .from(tokens)
      .where(and(eq(tokens.hash, hashOf(token)), gt(tokens.until, sql`now()`)));
    return found;
  }

  /** Notes that a token was used, to the minute. */
  async wasUsed(id: number): Promise<void> {
    const isLongAgo = sql`(${tokens.usedAt} is null or ${tokens.usedAt} < now() - make_interval(mins => 1))`;
    await this.db
      .update(tokens)
      .set({ usedAt: sql`now()` })
      .where(and(eq(tokens.id, id), isLongAgo));
  }

  async ofPerson(personId: number): Promise<TokenSummary[]> {
    const found = await this.db
      .select()
      .from(tokens)
      .where(and(eq(tokens.personId, personId), gt(tokens.until, sql`now()`)))
      .orderBy(asc(tokens.id));
    return found.map(summaryOf);
  }

  /** All tokens that work, each with the name of its person. */
  async list(): Promise<(TokenSummary & { readonly person: string })[]> {
    const found = await this.db
      .select({ token: tokens, person: people.name })
      .from(tokens)
      .innerJoin(people, eq(people.id, tokens.personId))
      .where(gt(tokens.until, sql`now()`))
      .orderBy(asc(tokens.id));
    return found.map(({ token, person }) => ({ ...summaryOf(token), person }));
  }

  async countOf(personId: number): Promise<number> {
    const [{ number }] = await this.db.select({ number: count() }).from(tokens).where(eq(tokens.personId, personId));
    return number;
  }

  /** @param personId whose it has to be; anybody's, if not said @returns the name of the token that was ended; undefined if there is none */
  async end(id: number, personId?: number): Promise<string | undefined> {
    const [ended] = await this.db
      .delete(tokens)
      .where(and(eq(tokens.id, id), personId === undefined ? undefined : eq(tokens.personId, personId)))
      .returning({ name: tokens.name });
    return ended?.name;
  }

  /** Forgets those that have ended. */
  async tidy(): Promise<void> {
    await this.db.delete(tokens).where(lt(tokens.until, sql`now()`));
  }
}

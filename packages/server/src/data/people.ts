/** People: who there are, how they come and go, and what was changed about access. Passwords and secrets are known by hashes only. */
import { and, asc, count, desc, eq, gt, isNull, lt, sql } from 'drizzle-orm';
import {
  INVITED_DAYS,
  USUAL_RULES,
  type AccessChange,
  type AccessRules,
  type Invite,
  type PersonChange,
  type PersonSummary,
  type Role,
} from '@usual-needle/contract';
import { nameKey, tidyName } from '../access/names.js';
import { isPassword, passwordHash } from '../access/passwords.js';
import { hashOf, newSecret } from '../access/secrets.js';
import type { Database } from './database.js';
import { accessChanges, accessRules, invitations, people, roles, signIns, tables } from './schema.js';

/** Changes of access that are told at once. */
const TOLD_CHANGES = 200;
/** Another server may have made somebody: it is looked for anew after so long, in milliseconds. */
const LOOKED_MS = 2_000;
/** Days for which changes of access are kept. */
const CHANGES_KEPT = 366;

/** A secret that was just made, and until when it works. */
export interface MadeSecret {
  readonly secret: string;
  readonly until: string;
}

/** A person who is signed in. */
export interface SignedIn {
  readonly id: number;
  readonly name: string;
  readonly everything: boolean;
  readonly roles: ReadonlyMap<number, Role>;
}

/** Somebody is called that already, or something that looks the same. */
export class NameTaken extends Error {}

/** The last person who builds everything cannot be taken that. */
export class LastBuilder extends Error {}

const inDays = (days: number) => sql<string>`now() + make_interval(days => ${days})`;

export class People {
  private made: { readonly is: Promise<boolean>; readonly at: number } | undefined;

  constructor(private readonly db: Database['db']) {}

  /** True once somebody was made who can sign in: from then on everybody has to. */
  async areMade(): Promise<boolean> {
    const now = performance.now();
    if (!this.made || now - this.made.at > LOOKED_MS) this.made = { is: this.lookedFor(), at: now };
    try {
      const is = await this.made.is;
      // Once there was somebody there always is: the last builder stays.
      if (is) this.made = { is: Promise.resolve(true), at: Infinity };
      return is;
    } catch (error) {
      this.made = undefined;
      throw error;
    }
  }

  private async lookedFor(): Promise<boolean> {
    const [{ number }] = await this.db
      .select({ number: count() })
      .from(people)
      .where(sql`${people.password} is not null`);
    return number > 0;
  }

  /** Makes the link by which the first builder is made; those of before do not work any more. */
  async firstLink(): Promise<MadeSecret> {
    await this.db.delete(invitations).where(isNull(invitations.personId));
    return this.invitation(null);
  }

  private async invitation(personId: number | null): Promise<MadeSecret> {
    const secret = newSecret();
    const [{ until }] = await this.db
      .insert(invitations)
      .values({ hash: hashOf(secret), personId, until: inDays(INVITED_DAYS) })
      .returning({ until: invitations.until });
    return { secret, until: new Date(until).toISOString() };
  }

  /** Makes somebody who has not come yet. @throws NameTaken */
  async invite({ name, everything = false, roles: given }: Invite, by: string): Promise<MadeSecret & { id: number }> {
    const told = tidyName(name);
    const [person] = await this.db
      .insert(people)
      .values({ name: told, nameKey: nameKey(told), everything })
      .onConflictDoNothing()
      .returning({ id: people.id });
    if (!person || told === '') throw new NameTaken('Somebody is called that, or something that looks the same.');
    await this.setRoles(person.id, given ?? (await this.rolesOfNewcomers()));
    await this.note(by, `invited ${told}`);
    return { id: person.id, ...(await this.invitation(person.id)) };
  }

  private async rolesOfNewcomers(): Promise<NonNullable<Invite['roles']>> {
    if ((await this.rules()).newcomers === 'read') return [];
    const there = await this.db.select({ id: tables.id }).from(tables).where(isNull(tables.deletedAt));
    return there.map(({ id }) => ({ table: id, role: 'keeps' }));
  }

  /** Gives the rules that hold for everybody. */
  async rules(): Promise<AccessRules> {
    const [found] = await this.db.select().from(accessRules);
    return found?.rules ?? USUAL_RULES;
  }

  async setRules(rules: AccessRules, by: string): Promise<void> {
    await this.db
      .insert(accessRules)
      .values({ rules })
      .onConflictDoUpdate({ target: accessRules.only, set: { rules } });
    const { newcomers, signInDays } = rules;
    const days = signInDays === 1 ? 'a day' : `${signInDays} days`;
    await this.note(
      by,
      `lets newcomers ${newcomers === 'keep' ? 'keep every table' : 'read'}, and sign-ins last ${days}`,
    );
  }

  /** Makes a new link for somebody who has not come yet, or has lost their password; older ones do not work any more. */
  async inviteAgain(id: number, by: string): Promise<MadeSecret | undefined> {
    const person = await this.named(id);
    if (!person) return undefined;
    await this.db.delete(invitations).where(eq(invitations.personId, id));
    await this.note(by, `made a new link for ${person.name}`);
    return this.invitation(id);
  }

  /** Takes an invitation back; one who never came goes with it. */
  async takeBack(id: number, by: string): Promise<boolean> {
    const person = await this.named(id);
    if (!person) return false;
    await this.db.delete(invitations).where(eq(invitations.personId, id));
    await this.db.delete(people).where(and(eq(people.id, id), isNull(people.password)));
    await this.note(by, `took back the link of ${person.name}`);
    return true;
  }

  private async named(id: number): Promise<{ name: string } | undefined> {
    const [found] = await this.db.select({ name: people.name }).from(people).where(eq(people.id, id));
    return found;
  }

  /** Tells for whom an invitation is; undefined for one that does not work. */
  async invited(secret: string): Promise<{ readonly name: string | null } | undefined> {
    const [found] = await this.db
      .select({ name: people.name })
      .from(invitations)
      .leftJoin(people, eq(people.id, invitations.personId))
      .where(and(eq(invitations.hash, hashOf(secret)), gt(invitations.until, sql`now()`)));
    return found;
  }

  /**
   * Uses an invitation, which then works no more. @param name for the first builder, who has none yet
   * @returns the id of the person; undefined if the invitation does not work @throws NameTaken
   */
  async accept(secret: string, name: string | undefined, password: string): Promise<number | undefined> {
    const kept = await passwordHash(password);
    this.made = undefined;
    return this.db.transaction(async (transaction) => {
      const [used] = await transaction
        .delete(invitations)
        .where(and(eq(invitations.hash, hashOf(secret)), gt(invitations.until, sql`now()`)))
        .returning({ personId: invitations.personId });
      if (!used) return undefined;
      if (used.personId !== null) {
        await transaction.update(people).set({ password: kept }).where(eq(people.id, used.personId));
        await transaction.delete(signIns).where(eq(signIns.personId, used.personId));
        return used.personId;
      }
      const told = tidyName(name ?? '');
      const [person] = await transaction
        .insert(people)
        .values({ name: told, nameKey: nameKey(told), everything: true, password: kept })
        .onConflictDoNothing()
        .returning({ id: people.id });
      if (!person || told === '') throw new NameTaken('Say a name that nobody has.');
      await transaction.insert(accessChanges).values({ who: told, what: 'was made the first builder' });
      return person.id;
    });
  }

  /** @returns the id of the person whose name and password these are; undefined if they are nobody's, or of who is disabled */
  async check(name: string, password: string): Promise<number | undefined> {
    const [found] = await this.db
      .select({ id: people.id, password: people.password, disabledAt: people.disabledAt })
      .from(people)
      .where(eq(people.nameKey, nameKey(name)));
    const fits = await isPassword(password, found?.password ?? null);
    return found && fits && found.disabledAt === null ? found.id : undefined;
  }

  /** Signs a person in. @returns what the cookie holds, and for how many days it works */
  async signIn(id: number): Promise<MadeSecret & { readonly days: number }> {
    const secret = newSecret();
    const { signInDays: days } = await this.rules();
    const [{ until }] = await this.db
      .insert(signIns)
      .values({ hash: hashOf(secret), personId: id, until: inDays(days) })
      .returning({ until: signIns.until });
    return { secret, until, days };
  }

  async signOut(secret: string): Promise<void> {
    await this.db.delete(signIns).where(eq(signIns.hash, hashOf(secret)));
  }

  /** Finds who is signed in by what a cookie holds; undefined for nobody, or who was disabled. */
  async signedIn(secret: string): Promise<SignedIn | undefined> {
    const [found] = await this.db
      .select({ id: people.id, name: people.name, everything: people.everything })
      .from(signIns)
      .innerJoin(people, eq(people.id, signIns.personId))
      .where(and(eq(signIns.hash, hashOf(secret)), gt(signIns.until, sql`now()`), isNull(people.disabledAt)));
    return found && this.withRoles(found);
  }

  /** Finds who may sign in. */
  async byId(id: number): Promise<SignedIn | undefined> {
    const [found] = await this.db
      .select({ id: people.id, name: people.name, everything: people.everything })
      .from(people)
      .where(and(eq(people.id, id), isNull(people.disabledAt)));
    return found && this.withRoles(found);
  }

  private async withRoles(person: Omit<SignedIn, 'roles'>): Promise<SignedIn> {
    const given = await this.db.select().from(roles).where(eq(roles.personId, person.id));
    return { ...person, roles: new Map(given.map(({ tableId, role }) => [tableId, role])) };
  }

  /** Notes that somebody was here, to the minute. */
  async wasHere(id: number): Promise<void> {
    await this.db
      .update(people)
      .set({ seenAt: sql`now()` })
      .where(
        and(eq(people.id, id), sql`(${people.seenAt} is null or ${people.seenAt} < now() - make_interval(mins => 1))`),
      );
  }

  async list(): Promise<PersonSummary[]> {
    const found = await this.db
      .select({ person: people, until: invitations.until })
      .from(people)
      .leftJoin(invitations, and(eq(invitations.personId, people.id), gt(invitations.until, sql`now()`)))
      .orderBy(asc(people.id));
    const given = await this.db.select().from(roles);
    return found.map(({ person: { id, name, everything, disabledAt, seenAt }, until }) => ({
      ...{ id, name, everything, disabled: disabledAt !== null },
      roles: given.filter(({ personId }) => personId === id).map(({ tableId, role }) => ({ table: tableId, role })),
      seen: seenAt && new Date(seenAt).toISOString(),
      invitedUntil: until && new Date(until).toISOString(),
    }));
  }

  /** @returns false if there is no such person @throws LastBuilder */
  async change(id: number, change: PersonChange, by: string): Promise<boolean> {
    const person = await this.named(id);
    if (!person) return false;
    const { everything, roles: given, disabled, signedOut } = change;
    if (everything === false || disabled) await this.mustNotBeLast(id);
    if (everything !== undefined) {
      await this.db.update(people).set({ everything }).where(eq(people.id, id));
      await this.note(by, `${everything ? 'lets' : 'no longer lets'} ${person.name} build everything`);
    }
    if (given) {
      await this.setRoles(id, given);
      await this.note(by, `made ${person.name} ${await this.rolesInWords(given)}`);
    }
    if (disabled !== undefined) {
      await this.db
        .update(people)
        .set({ disabledAt: disabled ? sql`now()` : null })
        .where(eq(people.id, id));
      await this.note(by, `${disabled ? 'disabled' : 'enabled'} ${person.name}`);
    }
    if (disabled || signedOut) await this.db.delete(signIns).where(eq(signIns.personId, id));
    if (signedOut) await this.note(by, `signed ${person.name} out everywhere`);
    return true;
  }

  private async mustNotBeLast(id: number): Promise<void> {
    const [{ number }] = await this.db
      .select({ number: count() })
      .from(people)
      .where(
        and(
          eq(people.everything, true),
          isNull(people.disabledAt),
          sql`${people.password} is not null`,
          sql`${people.id} <> ${id}`,
        ),
      );
    if (number === 0) throw new LastBuilder('Nobody else builds everything. Let another do so first.');
  }

  private async setRoles(id: number, given: NonNullable<Invite['roles']>): Promise<void> {
    const kept = new Map(given.map(({ table, role }) => [table, role]));
    const there = await this.db.select({ id: tables.id }).from(tables);
    const rows = there.flatMap(({ id: tableId }) => {
      const role = kept.get(tableId);
      return role ? [{ personId: id, tableId, role }] : [];
    });
    await this.db.transaction(async (transaction) => {
      await transaction.delete(roles).where(eq(roles.personId, id));
      if (rows.length > 0) await transaction.insert(roles).values(rows);
    });
  }

  private async rolesInWords(given: NonNullable<Invite['roles']>): Promise<string> {
    const named = await this.db.select({ id: tables.id, name: tables.name }).from(tables);
    const of = (role: Role): string =>
      given
        .flatMap((one) => (one.role === role ? (named.find(({ id }) => id === one.table)?.name ?? []) : []))
        .join(', ');
    const [builds, keeps] = [of('builds'), of('keeps')];
    const words = [builds && `builder of ${builds}`, keeps && `keeper of ${keeps}`].filter(Boolean);
    return words.join(' and ') || 'a reader of what is shared';
  }

  /** @returns false if the password of before is not theirs */
  async changePassword(id: number, before: string, password: string): Promise<boolean> {
    const [found] = await this.db
      .select({ kept: people.password, name: people.name })
      .from(people)
      .where(eq(people.id, id));
    if (!found || !(await isPassword(before, found.kept))) return false;
    await this.db
      .update(people)
      .set({ password: await passwordHash(password) })
      .where(eq(people.id, id));
    await this.db.delete(signIns).where(eq(signIns.personId, id));
    await this.note(found.name, 'changed their password');
    return true;
  }

  /** Notes a change of access, for a year. */
  async note(who: string, what: string): Promise<void> {
    await this.db.insert(accessChanges).values({ who, what });
  }

  async changes(): Promise<AccessChange[]> {
    const found = await this.db
      .select({ at: accessChanges.at, who: accessChanges.who, what: accessChanges.what })
      .from(accessChanges)
      .orderBy(desc(accessChanges.id))
      .limit(TOLD_CHANGES);
    return found.map((one) => ({ ...one, at: new Date(one.at).toISOString() }));
  }

  /** Forgets what works no more, and changes of more than a year ago. */
  async tidy(): Promise<void> {
    await this.db.delete(signIns).where(lt(signIns.until, sql`now()`));
    await this.db.delete(invitations).where(lt(invitations.until, sql`now()`));
    await this.db
      .delete(accessChanges)
      .where(lt(accessChanges.at, sql`now() - make_interval(days => ${CHANGES_KEPT})`));
  }
}

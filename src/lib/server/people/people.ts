// people
import type { Role } from '$lib/core/people/rights';
import { quietForm, type Quiet } from '$lib/core/people/quiet';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { DateLocale, Instant } from '$lib/core/time';
import { isTaken, oneRow, type Queryable } from '../db/pool';
import { Refusal, type Problem } from '$lib/core/problem/problem';

export interface Person {
  readonly id: number;
  readonly name: string;
  readonly displayName: string;
  readonly role: Role;
  readonly zone: string;
  /** In which language dates are written for them. */
  readonly dateLocale: DateLocale;
}

/** A person with what they set up for themselves and how they sign in. */
export interface Profile extends Person {
  readonly mail: string | null;
  readonly quiet: Quiet | null;
  readonly createdAt: Instant;
  readonly disabledAt: Instant | null;
  /** Whether they have a password; invited people have none until they join. */
  readonly hasPassword: boolean;
  /** Whether they sign in by the issuer. */
  readonly byIssuer: boolean;
  readonly hasFactor: boolean;
  readonly codesLeft: number;
}

const columns = 'id, name, display_name as "displayName", role, zone, date_locale as "dateLocale"';
const profileColumns = `${columns}, mail, quiet, created_at as "createdAt", disabled_at as "disabledAt", password_hash is not null as "hasPassword", issuer_subject is not null as "byIssuer",
  factor is not null as "hasFactor", (select count(*)::integer from recovery_codes where person_id = people.id) as "codesLeft"`;

export interface NewPerson {
  readonly name: string;
  readonly displayName: string;
  readonly role: Role;
  /** Null for somebody who is invited. */
  readonly passwordHash: string | null;
  readonly zone: string;
  readonly createdAt: Instant;
  readonly mail?: string | null;
}

/** @throws Refusal `name-taken` */
export async function insertPerson(db: Queryable, person: NewPerson): Promise<Person> {
  const values = [person.name, person.displayName, person.role, person.passwordHash, person.zone, person.createdAt];
  try {
    return oneRow(
      await db.rows<Person>(
        `insert into people (name, display_name, role, password_hash, zone, created_at, mail)
         values ($1, $2, $3, $4, $5, $6, $7)
         returning ${columns}`,
        [...values, person.mail ?? null]
      )
    );
  } catch (error) {
    if (!isTaken(error)) throw error;
    throw new Refusal('name-taken', 'Somebody has that name or mail address.', 'Choose another.', { path: ['name'] });
  }
}

/** A person as they sign in. */
export interface SignInPerson extends Person {
  readonly passwordHash: string | null;
  readonly hasFactor: boolean;
}

/** Whoever has a name or a mail address, with the hash of their password, for signing in only; nobody who is disabled. */
export async function personForSignIn(db: Queryable, name: string): Promise<SignInPerson | null> {
  const rows = await db.rows<SignInPerson>(
    `select ${columns}, password_hash as "passwordHash", factor is not null as "hasFactor"
     from people
     where (name = $1 or lower(mail) = lower($1)) and disabled_at is null
     order by (name = $1) desc
     limit 1`,
    [name]
  );
  return rows[0] ?? null;
}

/** Everybody of the workspace who is not disabled, by name. */
export const allPeople = (db: Queryable): Promise<Person[]> =>
  db.rows<Person>(`select ${columns} from people where disabled_at is null order by display_name, id`);

type ProfileRow = Omit<Profile, 'quiet'> & { readonly quiet: unknown };
/** Quiet hours that cannot be read are none: people are notified all the same. */
const profileFrom = (row: ProfileRow): Profile => ({
  ...row,
  quiet: readableOf(row.quiet === null ? [] : [row], quietFrom)[0] ?? null
});
const quietFrom = ({ quiet, displayName }: Pick<ProfileRow, 'quiet' | 'displayName'>): Quiet =>
  readStored(quietForm, quiet, displayName);

/** Everybody, those who are disabled as well. */
export const allProfiles = async (db: Queryable): Promise<Profile[]> =>
  (await db.rows<ProfileRow>(`select ${profileColumns} from people order by display_name, id`)).map(profileFrom);

export async function profileOf(db: Queryable, id: number): Promise<Profile | null> {
  const [row] = await db.rows<ProfileRow>(`select ${profileColumns} from people where id = $1`, [id]);
  return row === undefined ? null : profileFrom(row);
}

const quietRows = (db: Queryable): Promise<{ id: number; displayName: string; quiet: unknown }[]> =>
  db.rows(
    'select id, display_name as "displayName", quiet from people where quiet is not null and disabled_at is null order by id'
  );

/** Quiet hours of those who have any and are not disabled, by their ids; those that cannot be read are none. */
export const quietOfPeople = async (db: Queryable): Promise<ReadonlyMap<number, Quiet>> =>
  new Map(readableOf(await quietRows(db), (row) => [row.id, quietFrom(row)] as const));

/** Why some quiet hours cannot be read. */
export const unreadableQuiet = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await quietRows(db), quietFrom);

/** Whoever has a name or a mail address and is not disabled. */
export async function personByNameOrMail(db: Queryable, text: string): Promise<Person | null> {
  const rows = await db.rows<Person>(
    `select ${columns} from people where disabled_at is null and (name = $1 or lower(mail) = lower($1)) order by (name = $1) desc limit 1`,
    [text]
  );
  return rows[0] ?? null;
}

/** Whether somebody, disabled or not, has a name or a mail address. */
export async function isNameOrMail(db: Queryable, text: string): Promise<boolean> {
  return (await db.rows('select 1 from people where name = $1 or lower(mail) = lower($1) limit 1', [text])).length > 0;
}

/** Whoever the issuer knows by a subject; null for nobody, and for somebody who is disabled. */
export async function personBySubject(db: Queryable, issuer: string, subject: string): Promise<Person | null> {
  const rows = await db.rows<Person>(
    `select ${columns} from people where issuer = $1 and issuer_subject = $2 and disabled_at is null`,
    [issuer, subject]
  );
  return rows[0] ?? null;
}

/** Notes who a person is at the issuer. @returns whether they were nobody there before */
export async function linkSubject(db: Queryable, id: number, issuer: string, subject: string): Promise<boolean> {
  const linked = await db.rows(
    'update people set issuer = $2, issuer_subject = $3 where id = $1 and issuer_subject is null returning id',
    [id, issuer, subject]
  );
  return linked.length > 0;
}

/** What people set up for themselves. */
export interface OwnSettings {
  readonly displayName: string;
  readonly zone: string;
  readonly dateLocale: DateLocale;
  readonly quiet: Quiet | null;
}

export async function changeOwn(
  db: Queryable,
  id: number,
  { displayName, zone, dateLocale, quiet }: OwnSettings
): Promise<void> {
  await db.rows('update people set display_name = $2, zone = $3, quiet = $4, date_locale = $5 where id = $1', [
    id,
    displayName,
    zone,
    quiet === null ? null : writeStored(quietForm, quiet),
    dateLocale
  ]);
}

export async function setRole(db: Queryable, id: number, role: Role): Promise<void> {
  await db.rows('update people set role = $2 where id = $1', [id, role]);
}

export async function setPassword(db: Queryable, id: number, passwordHash: string): Promise<void> {
  await db.rows('update people set password_hash = $2 where id = $1', [id, passwordHash]);
}

export async function setDisabled(db: Queryable, id: number, at: Instant | null): Promise<void> {
  await db.rows('update people set disabled_at = $2 where id = $1', [id, at]);
}

/** Locks everybody's rights until the transaction ends, so that two changes at once cannot leave nobody who administers. @returns ids of administrators who can sign in */
export async function lockAdministrators(within: Queryable): Promise<number[]> {
  const rows = await within.rows<{ id: number; canSignIn: boolean }>(
    `select id, (password_hash is not null or issuer_subject is not null) as "canSignIn"
     from people
     where role = 'administrator' and disabled_at is null
     order by id
     for update`
  );
  return rows.filter(({ canSignIn }) => canSignIn).map(({ id }) => id);
}

export async function countPeople(db: Queryable): Promise<number> {
  return oneRow(await db.rows<{ count: number }>('select count(*)::integer as count from people')).count;
}

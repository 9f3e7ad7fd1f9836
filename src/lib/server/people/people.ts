// people
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import type { Role } from '$lib/core/people/rights';

export interface Person {
  readonly id: number;
  readonly name: string;
  readonly displayName: string;
  readonly role: Role;
  readonly zone: string;
}

const columns = 'id, name, display_name as "displayName", role, zone';

export async function insertPerson(
  db: Queryable,
  person: { name: string; displayName: string; role: Role; passwordHash: string; zone: string; createdAt: Instant }
): Promise<Person> {
  return oneRow(
    await db.rows<Person>(
      `insert into people (name, display_name, role, password_hash, zone, created_at)
       values ($1, $2, $3, $4, $5, $6)
       returning ${columns}`,
      [person.name, person.displayName, person.role, person.passwordHash, person.zone, person.createdAt]
    )
  );
}

/** A person with the hash of their password, for signing in only. */
export async function personForSignIn(
  db: Queryable,
  name: string
): Promise<(Person & { passwordHash: string }) | null> {
  const rows = await db.rows<Person & { passwordHash: string }>(
    `select ${columns}, password_hash as "passwordHash" from people where name = $1`,
    [name]
  );
  return rows[0] ?? null;
}

/** Everybody of the workspace, by name. */
export const allPeople = (db: Queryable): Promise<Person[]> =>
  db.rows<Person>(`select ${columns} from people order by display_name`);

export async function countPeople(db: Queryable): Promise<number> {
  return oneRow(await db.rows<{ count: number }>('select count(*) as count from people')).count;
}

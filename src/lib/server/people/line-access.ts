// people.line_accounts
import { z } from 'zod';
import { hasRights, type Role } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import type { Queryable } from '../db/pool';

/** Whose lines somebody may read: those of all accounts, or of some, by their ids. */
export const lineAccessSchema = z.union([z.literal('all'), z.array(z.int().min(1)).max(1000)]);
export type LineAccess = z.infer<typeof lineAccessSchema>;

/** What a role may read while nobody said otherwise. @example usualLineAccess('viewer') // [] */
export const usualLineAccess = (role: Role): LineAccess => (hasRights(role, 'editor') ? 'all' : []);

/** What was said of people, by their ids; what cannot be read allows nothing. */
export async function allLineAccess(db: Queryable): Promise<ReadonlyMap<number, LineAccess>> {
  const rows = await db.rows<{ id: number; access: unknown }>(
    'select id, line_accounts as access from people where line_accounts is not null'
  );
  return new Map(rows.map(({ id, access }) => [id, lineAccessSchema.safeParse(access).data ?? []]));
}

/**
 * The accounts whose lines somebody may read, by their ids; null for all.
 *
 * @param reader null for nobody, who may read none
 */
export async function readableLines(
  db: Queryable,
  reader: { readonly id: number; readonly role: Role } | null
): Promise<readonly number[] | null> {
  if (reader === null) return [];
  const access = (await allLineAccess(db)).get(reader.id) ?? usualLineAccess(reader.role);
  return access === 'all' ? null : access;
}

/** Says whose lines somebody may read; null for as their role says. */
export async function setLineAccess(db: Queryable, id: number, access: LineAccess | null): Promise<void> {
  await db.rows('update people set line_accounts = $2::jsonb where id = $1', [
    id,
    access === null ? null : JSON.stringify(access)
  ]);
}

/** @throws Refusal `not-allowed` for whoever may read no lines at all */
export function requireLines(accounts: readonly number[] | null): readonly number[] | null {
  if (accounts?.length !== 0) return accounts;
  throw new Refusal(
    'not-allowed',
    'You may not read lines of logs.',
    'Ask an administrator: the page People says whose lines each person may read.'
  );
}

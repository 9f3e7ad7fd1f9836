// people.line_accounts, people.act_accounts
import { z } from 'zod';
import type { Role } from '$lib/core/people/rights';
import type { Queryable } from '../db/pool';

/** With which accounts somebody may do something: all, or some by their ids. */
export const accountAccessSchema = z.union([z.literal('all'), z.array(z.int().min(1)).max(1000)]);
export type AccountAccess = z.infer<typeof accountAccessSchema>;

/** A right that people have with some accounts, as their role says while nobody said otherwise. */
export class AccountRight {
  readonly #column: 'line_accounts' | 'act_accounts';
  readonly #usual: (role: Role) => AccountAccess;

  constructor(column: 'line_accounts' | 'act_accounts', usual: (role: Role) => AccountAccess) {
    this.#column = column;
    this.#usual = usual;
  }

  /** What was said of people, by their ids; what cannot be read allows nothing. */
  async all(db: Queryable): Promise<ReadonlyMap<number, AccountAccess>> {
    const rows = await db.rows<{ id: number; access: unknown }>(
      `select id, ${this.#column} as access from people where ${this.#column} is not null`
    );
    return new Map(rows.map(({ id, access }) => [id, accountAccessSchema.safeParse(access).data ?? []]));
  }

  /**
   * The accounts of somebody's right, by their ids; null for all.
   *
   * @param who null for nobody, who has it with none
   */
  async of(db: Queryable, who: { readonly id: number; readonly role: Role } | null): Promise<readonly number[] | null> {
    if (who === null) return [];
    const access = (await this.all(db)).get(who.id) ?? this.#usual(who.role);
    return access === 'all' ? null : access;
  }

  /** Says with which accounts somebody has it; null for as their role says. */
  async set(db: Queryable, id: number, access: AccountAccess | null): Promise<void> {
    await db.rows(`update people set ${this.#column} = $2::jsonb where id = $1`, [
      id,
      access === null ? null : JSON.stringify(access)
    ]);
  }
}

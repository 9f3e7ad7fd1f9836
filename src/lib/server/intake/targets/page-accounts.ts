// accounts of OpenMetrics pages
import { readStored, writeStored } from '$lib/core/forms/stored';
import { targetsForm, type Targets } from '$lib/core/targets';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { pagesProvider } from '../../inventory/self-described';

/** An account of OpenMetrics pages as the schedule knows it. */
export interface PageAccount {
  readonly id: number;
  readonly name: string;
  readonly sealedSecret: Buffer;
  readonly definition: Targets;
  /** The same as long as the definition is. */
  readonly stamp: string;
  /** When the list of pages was read last. */
  readonly listedAt: Instant | null;
}

interface Row extends Omit<PageAccount, 'definition'> {
  /** Null where the definition of its stamp is known. */
  readonly settings: unknown;
}

const columns = `id, name, secret_sealed as "sealedSecret", md5(settings::text) as stamp, discovery_tried_at as "listedAt"`;

/**
 * Every account of pages; one whose settings cannot be read is named instead.
 *
 * @param known definitions by their stamps, which are not read again: a list of thousands of pages takes a while
 */
export async function pageAccounts(
  db: Queryable,
  known: ReadonlyMap<string, Targets>
): Promise<{
  readonly accounts: PageAccount[];
  readonly unreadable: { readonly id: number; readonly error: unknown }[];
}> {
  const accounts: PageAccount[] = [];
  const unreadable: { id: number; error: unknown }[] = [];
  const rows = await db.rows<Row>(
    `select ${columns}, case when md5(settings::text) = any($2::text[]) then null else settings end as settings
     from accounts
     where provider = $1 and removed_at is null
     order by id`,
    [pagesProvider, [...known.keys()]]
  );
  for (const row of rows)
    try {
      accounts.push(accountOf(row, known.get(row.stamp)));
    } catch (error) {
      unreadable.push({ id: row.id, error });
    }
  return { accounts, unreadable };
}

/** @returns null where there is no such account of pages */
export async function pageAccount(db: Queryable, id: number): Promise<PageAccount | null> {
  const [row] = await db.rows<Row>(
    `select ${columns}, settings from accounts where id = $1 and provider = $2 and removed_at is null`,
    [id, pagesProvider]
  );
  return row === undefined ? null : accountOf(row);
}

/** Saves what an account reads, and its secret where there is another one. */
export async function savePages(
  db: Queryable,
  id: number,
  definition: Targets,
  sealedSecret: Buffer | null,
  at: Instant
): Promise<void> {
  await db.rows(
    `update accounts
     set settings = $2, secret_sealed = coalesce($3, secret_sealed), secret_changed_at = case when $3::bytea is null then secret_changed_at else $4 end,
       discovery_tried_at = null
     where id = $1`,
    [id, writeStored(targetsForm, definition), sealedSecret, at]
  );
}

const accountOf = ({ settings, ...row }: Row, known?: Targets): PageAccount => ({
  ...row,
  definition: known ?? readStored(targetsForm, settings, row.name)
});

// resources
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { FoundResource } from '../providers/port/provider';

export interface Resource {
  readonly id: number;
  readonly accountId: number;
  readonly account: string;
  readonly provider: string;
  readonly providerId: string;
  readonly name: string;
  readonly type: string;
  readonly service: string;
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
  readonly guest: 'none' | 'off' | 'on';
  /** A person's word on whether it is collected; null follows the plan. */
  readonly chosen: boolean | null;
  readonly formerNames: readonly { readonly name: string; readonly until: Instant }[];
  readonly firstSeenAt: Instant;
  readonly lastSeenAt: Instant;
  /** When it was no longer found; null while it is. */
  readonly endedAt: Instant | null;
}

const resourceColumns = `resources.id, account_id as "accountId", accounts.name as account, accounts.provider, provider_id as "providerId", resources.name, type, service, region, tags,
  guest, chosen, former_names as "formerNames", first_seen_at as "firstSeenAt", last_seen_at as "lastSeenAt", ended_at as "endedAt"`;

/**
 * Stores what a discovery found: new resources come in, known ones are brought up to date, one that is back continues, one that is no longer found has ended.
 * A resource that its provider renamed keeps its series, since it is known by the provider's id; its former name is stored with the time.
 *
 * @param whole whether these are all that the account has; else nothing is said of the others
 */
export async function saveDiscovered(
  db: Queryable,
  accountId: number,
  listed: readonly FoundResource[],
  at: Instant,
  whole = true
): Promise<void> {
  const found = [...new Map(listed.map((resource) => [resource.providerId, resource])).values()]; // pages may overlap
  await db.rows(
    `insert into resources (account_id, provider_id, name, type, service, region, tags, guest, former_names, first_seen_at, last_seen_at)
     select $1, provider_id, name, type, service, region, tags::jsonb, guest, former_names::jsonb, $2, $2
     from unnest($3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::text[])
       as found (provider_id, name, type, service, region, tags, guest, former_names)
     on conflict (account_id, provider_id) do update
     set name = excluded.name, type = excluded.type, service = excluded.service, region = excluded.region, tags = excluded.tags, guest = excluded.guest,
       last_seen_at = excluded.last_seen_at, ended_at = null,
       former_names = case
         when excluded.former_names <> '[]' then excluded.former_names
         when resources.name <> excluded.name
           then resources.former_names || jsonb_build_object('name', resources.name, 'until', excluded.last_seen_at)
         else resources.former_names
       end`,
    [
      accountId,
      at,
      found.map(({ providerId }) => providerId),
      found.map(({ name }) => name),
      found.map(({ type }) => type),
      found.map(({ service }) => service),
      found.map(({ region }) => region),
      found.map(({ tags }) => JSON.stringify(tags)),
      found.map(({ guest }) => guest),
      found.map(({ formerNames }) => JSON.stringify(formerNames))
    ]
  );
  if (!whole) return;
  await db.rows('update resources set ended_at = $2 where account_id = $1 and last_seen_at < $2 and ended_at is null', [
    accountId,
    at
  ]);
}

/** Resources that are there, by name. */
export const allResources = (db: Queryable): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where ended_at is null
     order by resources.name`
  );

/** Resources that were there at some moment since an instant, those that have ended included, by name. */
export const resourcesSeenSince = (db: Queryable, since: Instant): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where ended_at is null or last_seen_at >= $1
     order by resources.name`,
    [since]
  );

/** Resources of one account, ended ones last. */
export const resourcesOfAccount = (db: Queryable, accountId: number): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where account_id = $1
     order by ended_at is not null, resources.name`,
    [accountId]
  );

/** Resources of some ids, in no order. */
export const resourcesByIds = (db: Queryable, ids: readonly number[]): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where resources.id = any($1::integer[])`,
    [ids]
  );

export const resourceById = async (db: Queryable, id: number): Promise<Resource | null> =>
  (await resourcesByIds(db, [id]))[0] ?? null;

/** The provider's ids of all resources of an account that were ever found. */
export async function providerIdsOf(db: Queryable, accountId: number): Promise<Set<string>> {
  const rows = await db.rows<{ providerId: string }>(
    'select provider_id as "providerId" from resources where account_id = $1',
    [accountId]
  );
  return new Set(rows.map(({ providerId }) => providerId));
}

/** The id of the resource of an account that its provider knows by an id; null when there is none. */
export async function resourceIdBy(db: Queryable, accountId: number, providerId: string): Promise<number | null> {
  const [found] = await db.rows<{ id: number }>('select id from resources where account_id = $1 and provider_id = $2', [
    accountId,
    providerId
  ]);
  return found?.id ?? null;
}

/** Resources of the same account and region that are there, those of its service first. */
export const neighboursOf = (
  db: Queryable,
  { id, accountId, region, service }: Resource,
  most: number
): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where account_id = $1 and region = $2 and resources.id <> $3 and ended_at is null
     order by service <> $4, resources.name
     limit $5`,
    [accountId, region, id, service, most]
  );

/** The resource of an account that has a name, the newest of several. */
export async function resourceNamed(db: Queryable, account: string, name: string): Promise<Resource | null> {
  const rows = await db.rows<Resource>(
    `select ${resourceColumns}
     from resources
     join accounts on accounts.id = account_id
     where accounts.name = $1 and resources.name = $2
     order by last_seen_at desc
     limit 1`,
    [account, name]
  );
  return rows[0] ?? null;
}

/** A person's word on whether resources are collected; null lets them follow the plan again. */
export async function chooseResources(
  db: Queryable,
  accountId: number,
  ids: readonly number[],
  chosen: boolean | null
): Promise<void> {
  await db.rows('update resources set chosen = $3 where account_id = $1 and id = any($2::integer[])', [
    accountId,
    ids,
    chosen
  ]);
}

/** Which of some resources belong to which account. */
export async function resourcesByAccount(db: Queryable, ids: readonly number[]): Promise<Map<number, number[]>> {
  const rows = await db.rows<{ accountId: number; ids: number[] }>(
    `select account_id as "accountId", array_agg(id) as ids from resources where id = any($1::integer[]) group by account_id`,
    [ids]
  );
  return new Map(rows.map((row) => [row.accountId, row.ids]));
}

export async function noteGuestOn(db: Queryable, accountId: number, ids: readonly number[]): Promise<void> {
  await db.rows(`update resources set guest = 'on' where account_id = $1 and id = any($2::integer[])`, [
    accountId,
    ids
  ]);
}

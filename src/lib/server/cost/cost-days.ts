// cost_days; cost_rates and cost_settings, for whether anything changed
import {
  decodeDay,
  decodeQuantities,
  encodeDay,
  encodeQuantities,
  type DayNumber,
  type DaySheet
} from '$lib/core/cost';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Which days are stored, and of which revision: one that changed has another. */
export interface StoredDay {
  readonly accountId: number;
  readonly day: DayNumber;
  readonly revision: number;
  readonly changedAt: Instant;
}

/** The days of a span, of any account, that are stored. */
export const daysWithin = (db: Queryable, from: DayNumber, to: DayNumber): Promise<StoredDay[]> =>
  db.rows(
    `select account_id as "accountId", day, revision, changed_at as "changedAt"
     from cost_days join accounts on accounts.id = account_id
     where day >= $1 and day < $2
     order by account_id, day`,
    [from, to]
  );

/** The sheets of some days of an account. */
export async function sheetsOf(
  db: Queryable,
  accountId: number,
  days: readonly DayNumber[]
): Promise<(DaySheet & Pick<StoredDay, 'day' | 'revision'>)[]> {
  const rows = await db.rows<{ day: DayNumber; revision: number; amounts: Buffer }>(
    'select day, revision, amounts from cost_days where account_id = $1 and day = any($2::integer[])',
    [accountId, days]
  );
  return rows.map(({ day, revision, amounts }) => ({ day, revision, ...decodeDay(amounts) }));
}

/** A day whole, for what leaves. @returns null for one that is not stored */
export async function wholeDay(
  db: Queryable,
  accountId: number,
  day: DayNumber
): Promise<(DaySheet & { readonly quantities: Float64Array }) | null> {
  const [row] = await db.rows<{ amounts: Buffer; quantities: Buffer }>(
    'select amounts, quantities from cost_days where account_id = $1 and day = $2',
    [accountId, day]
  );
  if (row === undefined) return null;
  const sheet = decodeDay(row.amounts);
  return { ...sheet, quantities: decodeQuantities(row.quantities, sheet.items.length) };
}

/** Writes a day in place of whatever is stored of it. @returns whether anything is other than before */
export async function saveDay(
  within: Queryable,
  accountId: number,
  day: DayNumber,
  { quantities, ...sheet }: DaySheet & { readonly quantities: Float64Array },
  at: Instant
): Promise<boolean> {
  const [amounts, counted] = [Buffer.from(encodeDay(sheet)), Buffer.from(encodeQuantities(quantities))];
  const rows = await within.rows<{ isChanged: boolean }>(
    `insert into cost_days as stored (account_id, day, revision, entries, amounts, quantities, read_at, changed_at)
     values ($1, $2, nextval('cost_revisions'), $3, $4, $5, $6, $6)
     on conflict (account_id, day) do update
     set revision = excluded.revision, entries = excluded.entries, amounts = excluded.amounts, quantities = excluded.quantities,
       changed_at = excluded.changed_at, read_at = excluded.read_at
     where stored.amounts <> excluded.amounts or stored.quantities <> excluded.quantities
     returning true as "isChanged"`,
    [accountId, day, sheet.items.length, amounts, counted, at]
  );
  if (rows.length > 0) return true;
  await within.rows('update cost_days set read_at = $3 where account_id = $1 and day = $2', [accountId, day, at]);
  return false;
}

/** The newest day of each account that is stored. */
export const newestDays = (db: Queryable): Promise<{ accountId: number; oldest: DayNumber; newest: DayNumber }[]> =>
  db.rows(
    'select account_id as "accountId", min(day) as oldest, max(day) as newest from cost_days group by account_id'
  );

/** Accounts that have days whose samples are not those of their bill. */
export const accountsToSample = async (db: Queryable): Promise<number[]> =>
  (
    await db.rows<{ accountId: number }>(
      `select distinct account_id as "accountId"
       from cost_days join accounts on accounts.id = account_id
       where removed_at is null and sampled_revision is distinct from cost_days.revision`
    )
  ).map(({ accountId }) => accountId);

/** Accounts that have bills. */
export const billedAccounts = async (db: Queryable): Promise<Set<number>> =>
  new Set(
    (await db.rows<{ accountId: number }>('select distinct account_id as "accountId" from cost_days')).map(
      ({ accountId }) => accountId
    )
  );

/** Days of an account whose samples are not those of their bill, oldest first. */
export const unsampledDays = (
  db: Queryable,
  accountId: number,
  most: number
): Promise<Pick<StoredDay, 'day' | 'revision'>[]> =>
  db.rows(
    `select day, revision from cost_days
     where account_id = $1 and sampled_revision is distinct from revision
     order by day
     limit $2`,
    [accountId, most]
  );

/** Notes that the samples of some days are those of a revision of theirs. */
export async function noteSampled(
  db: Queryable,
  accountId: number,
  days: readonly Pick<StoredDay, 'day' | 'revision'>[]
): Promise<void> {
  await db.rows(
    `update cost_days set sampled_revision = found.revision
     from unnest($2::integer[], $3::bigint[]) as found (day, revision)
     where account_id = $1 and cost_days.day = found.day`,
    [accountId, days.map(({ day }) => day), days.map(({ revision }) => revision)]
  );
}

/** Says that the samples of all days from one on are not right any more, since a rate changed. */
export async function forgetSampled(db: Queryable, from: DayNumber): Promise<void> {
  await db.rows('update cost_days set sampled_revision = null where day >= $1', [from]);
}

/** A text that is another whenever a bill, a rate or the own currency changed. */
export async function costsSignature(db: Queryable): Promise<string> {
  const [row] = await db.rows<{ signature: string }>(
    `select concat_ws(' ', (select max(revision) from cost_days), (select count(*) from cost_days), (select max(set_at) from cost_rates),
       (select count(*) from cost_rates), (select sum(rate) from cost_rates), (select currency from cost_settings)) as signature`
  );
  return row?.signature ?? '';
}

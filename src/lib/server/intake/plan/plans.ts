// plans, prices
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import { planEvery, planForm, usualPlan, type CollectionPlan } from '$lib/core/intake';
import type { Problem } from '$lib/core/problem/problem';
import type { Duration, Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';

/** What is collected of one service of one account, and who said so. */
export interface Plan {
  readonly accountId: number;
  readonly service: string;
  readonly plan: CollectionPlan;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

type Row = Omit<Plan, 'plan'> & { readonly plan: unknown };
const fromRow = (row: Row): Plan => ({ ...row, plan: readStored(planForm, row.plan, row.service) });

const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(
    `select account_id as "accountId", service, plan, changed_at as "changedAt", changed_by as "changedBy" from plans`
  );

/** Every plan that can be read. */
export const allPlans = async (db: Queryable): Promise<Plan[]> => readableOf(await allRows(db), fromRow);

/** How often the slowest account requests metrics of a service; the usual interval where no plan says another one. */
export const slowestEvery = (plans: readonly Plan[], service: string): Duration =>
  plans
    .filter((one) => one.service === service && one.plan.collect !== 'nothing')
    .reduce((slowest, { plan }) => (planEvery(plan) > slowest ? planEvery(plan) : slowest), planEvery(usualPlan));

/** Why some plans cannot be read. */
export const unreadablePlans = async (db: Queryable): Promise<Problem[]> => unreadableOf(await allRows(db), fromRow);

/** The plan of a service of an account; the usual one until somebody says otherwise, and while it cannot be read. */
export async function planOf(db: Queryable, accountId: number, service: string): Promise<CollectionPlan> {
  const rows = await db.rows<{ plan: unknown }>('select plan from plans where account_id = $1 and service = $2', [
    accountId,
    service
  ]);
  return readableOf(rows, ({ plan }) => readStored(planForm, plan, service))[0] ?? usualPlan;
}

export async function savePlan(
  db: Queryable,
  accountId: number,
  service: string,
  plan: CollectionPlan,
  by: string,
  at: Instant
): Promise<void> {
  await db.rows(
    `insert into plans (account_id, service, plan, changed_at, changed_by)
     values ($1, $2, $3, $4, $5)
     on conflict (account_id, service) do update
     set plan = excluded.plan, changed_at = excluded.changed_at, changed_by = excluded.changed_by`,
    [accountId, service, writeStored(planForm, plan), at, by]
  );
}

/** What a thousand requests cost at each provider for which a person has said so. */
export async function priceByProvider(db: Queryable): Promise<ReadonlyMap<string, number>> {
  const rows = await db.rows<{ provider: string; price: number }>(
    'select provider, per_thousand_requests as price from prices'
  );
  return new Map(rows.map(({ provider, price }) => [provider, price]));
}

export async function savePrice(
  db: Queryable,
  provider: string,
  price: number,
  by: string,
  at: Instant
): Promise<void> {
  await db.rows(
    `insert into prices (provider, per_thousand_requests, changed_at, changed_by)
     values ($1, $2, $3, $4)
     on conflict (provider) do update
     set per_thousand_requests = excluded.per_thousand_requests, changed_at = excluded.changed_at, changed_by = excluded.changed_by`,
    [provider, price, at, by]
  );
}

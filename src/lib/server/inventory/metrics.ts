// metrics
import type { Duration } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { FoundMetric } from '../providers/port/provider';

export interface Metric {
  readonly provider: string;
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly unit: string;
  readonly kind: string;
  readonly shape: string;
  readonly resourceType: string;
  readonly service: string;
  readonly recommended: boolean;
  readonly level: 'host' | 'guest';
  readonly samplingMs: Duration;
  readonly delayMs: Duration;
}

const metricColumns = `provider, name, title, description, unit, kind, shape, resource_type as "resourceType", service, recommended, level,
  sampling_ms as "samplingMs", delay_ms as "delayMs"`;

/**
 * Brings the metrics of a provider up to date.
 *
 * @param accountId of what other programs send: the account of the key, which describes them for itself alone
 */
export async function saveMetrics(
  db: Queryable,
  provider: string,
  described: readonly FoundMetric[],
  accountId: number | null = null
): Promise<void> {
  const metrics = [...new Map(described.map((metric) => [metric.name, metric])).values()]; // told twice, the last word counts
  const column = <Key extends keyof FoundMetric>(key: Key) => metrics.map((metric) => metric[key]);
  await db.rows(
    `insert into metrics (provider, account_id, name, title, description, unit, kind, shape, resource_type, service, recommended, level, sampling_ms, delay_ms)
     select $1, $14::integer, * from unnest($2::text[], $3::text[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[], $10::boolean[], $11::text[],
       $12::integer[], $13::integer[])
     on conflict (provider, account_id, name) do update
     set title = excluded.title, description = excluded.description,
       unit = case when metrics.sent_unit is null then excluded.unit else metrics.unit end, kind = excluded.kind, shape = excluded.shape,
       resource_type = excluded.resource_type, service = excluded.service, recommended = excluded.recommended, level = excluded.level,
       sampling_ms = excluded.sampling_ms, delay_ms = excluded.delay_ms`,
    [
      provider,
      column('name'),
      column('title'),
      column('description'),
      column('unit'),
      column('kind'),
      column('shape'),
      column('resourceType'),
      column('service'),
      column('recommended'),
      column('level'),
      column('samplingMs'),
      column('delayMs'),
      accountId
    ]
  );
}

/** The units of a metric that programs send, one for each key; none when no program sends it. */
export async function pushedUnits(db: Queryable, name: string): Promise<string[]> {
  const rows = await db.rows<{ unit: string }>(
    `select unit from metrics where name = $1 and provider in ('pushed', 'pages')`,
    [name]
  );
  return rows.map(({ unit }) => unit);
}

/** Corrects the unit of a metric that programs send: its numbers stay as they are, and what is sent from now on is taken as before. */
export async function setUnit(db: Queryable, name: string, unit: string): Promise<void> {
  await db.rows(
    `update metrics set sent_unit = coalesce(sent_unit, unit), unit = $2 where name = $1 and provider in ('pushed', 'pages')`,
    [name, unit]
  );
}

/** The names of all metrics. */
export async function metricNames(db: Queryable): Promise<string[]> {
  const rows = await db.rows<{ name: string }>('select distinct name from metrics order by name');
  return rows.map(({ name }) => name);
}

/**
 * One row for each metric name: of several providers the first, what keys sent after them; with the longest sampling interval and reporting delay of those providers, or
 * of the keys where no provider describes it.
 */
const merged = `
  select distinct on (name) provider, name, title, description, unit, kind, shape, resource_type as "resourceType", service, recommended, level,
    max(sampling_ms) over (partition by name, account_id is not null) as "samplingMs",
    max(delay_ms) over (partition by name, account_id is not null) as "delayMs"
  from metrics`;
/** What providers say comes before what keys say, of those the oldest. */
const inOrder = 'order by name, account_id nulls first, provider';

/** What metrics of some names are described as by providers, and by a key. */
export interface DescribedUnit {
  readonly name: string;
  /** Null for what a provider, or Bussola itself, describes. */
  readonly accountId: number | null;
  readonly unit: string;
  readonly kind: string;
}

/** How some metrics are described by providers and by the key of an account. */
export const describedFor = (db: Queryable, accountId: number, names: readonly string[]): Promise<DescribedUnit[]> =>
  db.rows<DescribedUnit>(
    `select name, account_id as "accountId", coalesce(sent_unit, unit) as unit, kind
     from metrics
     where name = any($2) and (account_id = $1 or account_id is null)
     order by name, account_id nulls last, provider`,
    [accountId, names]
  );

export const allMetrics = (db: Queryable): Promise<Metric[]> =>
  db.rows<Metric>(`select * from (${merged} ${inOrder}) as merged order by title`);

/** Series of a metric that are counted; more are as many. */
const mostCounted = 20;

/** All metrics, each with whether any series of it is there, and how many, up to 20. */
export const metricsWithUse = (db: Queryable): Promise<(Metric & { isCollected: boolean; series: number })[]> =>
  db.rows(
    `select merged.*, counted.series > 0 as "isCollected", counted.series
     from (${merged} ${inOrder}) as merged,
       lateral (select count(*)::integer as series from (select from series where series.metric = merged.name limit ${mostCounted}) as few) as counted
     order by title`
  );

export async function metricByName(db: Queryable, name: string): Promise<Metric | null> {
  const rows = await db.rows<Metric>(`${merged} where name = $1 ${inOrder}`, [name]);
  return rows[0] ?? null;
}

/** The metrics of each provider as it describes them. */
export const metricsByProvider = (db: Queryable): Promise<Metric[]> =>
  db.rows<Metric>(`select ${metricColumns} from metrics order by provider, title`);

export const metricsOfService = (db: Queryable, provider: string, service: string): Promise<Metric[]> =>
  db.rows<Metric>(`select ${metricColumns} from metrics where provider = $1 and service = $2 order by title`, [
    provider,
    service
  ]);

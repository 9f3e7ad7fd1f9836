// resources, metrics, series
import type { ConditionLabels } from '$lib/core/signal';
import type { Duration, Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { FoundMetric, FoundResource, WantedSeries } from './provider';

export interface Resource {
  readonly id: number;
  readonly accountId: number;
  readonly account: string;
  readonly providerId: string;
  readonly name: string;
  readonly type: string;
  readonly service: string;
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
  readonly firstSeenAt: Instant;
  readonly lastSeenAt: Instant;
}

export interface Metric {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly unit: string;
  readonly kind: string;
  readonly shape: string;
  readonly resourceType: string;
  readonly service: string;
  readonly samplingMs: Duration;
  readonly delayMs: Duration;
}

/** A series with everything conditions and legends look at. */
export interface Series {
  readonly id: number;
  readonly accountId: number;
  readonly resourceId: number;
  readonly metric: string;
  readonly labels: ConditionLabels;
  readonly lastSeenAt: Instant;
}

const metricColumns = `name, title, description, unit, kind, shape, resource_type as "resourceType", service, sampling_ms as "samplingMs", delay_ms as "delayMs"`;

const resourceColumns = `resources.id, account_id as "accountId", accounts.name as account, provider_id as "providerId", resources.name, type, service, region, tags,
  first_seen_at as "firstSeenAt", last_seen_at as "lastSeenAt"`;

/** Keeps what was found: new resources, metrics and series come in, known ones are brought up to date. */
export async function keepFound(
  db: Queryable,
  accountId: number,
  found: readonly FoundResource[],
  metrics: readonly FoundMetric[],
  at: Instant
): Promise<void> {
  for (const metric of metrics)
    await db.rows(
      `insert into metrics (name, title, description, unit, kind, shape, resource_type, service, sampling_ms, delay_ms)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)
       on conflict (name) do update
       set title = excluded.title, description = excluded.description, unit = excluded.unit, kind = excluded.kind, shape = excluded.shape,
         resource_type = excluded.resource_type, service = excluded.service, sampling_ms = excluded.sampling_ms, delay_ms = excluded.delay_ms`,
      [
        metric.name,
        metric.title,
        metric.description,
        metric.unit,
        metric.kind,
        metric.shape,
        metric.resourceType,
        metric.service,
        metric.samplingMs,
        metric.delayMs
      ]
    );
  for (const { providerId, name, type, service, region, tags } of found)
    await db.rows(
      `insert into resources (account_id, provider_id, name, type, service, region, tags, first_seen_at, last_seen_at)
       values ($1, $2, $3, $4, $5, $6, $7, $8, $8)
       on conflict (account_id, provider_id) do update
       set name = excluded.name, type = excluded.type, service = excluded.service, region = excluded.region, tags = excluded.tags,
         last_seen_at = excluded.last_seen_at`,
      [accountId, providerId, name, type, service, region, JSON.stringify(tags), at]
    );
  await db.rows(
    `insert into series (account_id, resource_id, metric)
     select resources.account_id, resources.id, metrics.name
     from resources
     join metrics on metrics.resource_type = resources.type
     where resources.account_id = $1
     on conflict (account_id, resource_id, metric) do nothing`,
    [accountId]
  );
}

/** The series to fetch from an account: those of resources that its last discovery still found. */
export async function wantedSeries(db: Queryable, accountId: number): Promise<WantedSeries[]> {
  return db.rows<WantedSeries>(
    `select series.id, resources.provider_id as resource, series.metric
     from series
     join resources on resources.account_id = series.account_id and resources.id = series.resource_id
     join accounts on accounts.id = series.account_id
     where series.account_id = $1 and resources.last_seen_at >= coalesce(accounts.discovered_at, 0)
     order by series.id`,
    [accountId]
  );
}

/** Every series of a metric, by resource name. */
export async function seriesOfMetric(db: Queryable, metric: string): Promise<Series[]> {
  const rows = await db.rows<
    Omit<Series, 'labels'> & { account: string; region: string; resource: string; service: string }
  >(
    `select series.id, series.account_id as "accountId", series.resource_id as "resourceId", series.metric, accounts.name as account,
       resources.region, resources.name as resource, resources.service, resources.last_seen_at as "lastSeenAt"
     from series
     join resources on resources.account_id = series.account_id and resources.id = series.resource_id
     join accounts on accounts.id = series.account_id
     where series.metric = $1
     order by resources.name, series.id`,
    [metric]
  );
  return rows.map(({ account, region, resource, service, ...series }) => ({
    ...series,
    labels: { account, region, resource, service }
  }));
}

export const allMetrics = (db: Queryable): Promise<Metric[]> =>
  db.rows<Metric>(`select ${metricColumns} from metrics order by title`);

export async function metricByName(db: Queryable, name: string): Promise<Metric | null> {
  const rows = await db.rows<Metric>(`select ${metricColumns} from metrics where name = $1`, [name]);
  return rows[0] ?? null;
}

export const allResources = (db: Queryable): Promise<Resource[]> =>
  db.rows<Resource>(
    `select ${resourceColumns} from resources join accounts on accounts.id = account_id order by resources.name`
  );

export async function resourceById(db: Queryable, id: number): Promise<Resource | null> {
  const rows = await db.rows<Resource>(
    `select ${resourceColumns} from resources join accounts on accounts.id = account_id where resources.id = $1`,
    [id]
  );
  return rows[0] ?? null;
}

/** Resources and series of each account. */
export async function coverageByAccount(
  db: Queryable
): Promise<{ accountId: number; resources: number; series: number }[]> {
  return db.rows(
    `select account_id as "accountId", count(distinct resource_id)::integer as resources, count(*)::integer as series
     from series
     group by account_id`
  );
}

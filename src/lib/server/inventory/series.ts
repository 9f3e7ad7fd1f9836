// series
import { isPattern, matchesAny } from '$lib/core/pattern';
import { resourceCost } from '$lib/core/cost';
import { resourceMetrics } from '$lib/core/reachability';
import type { Stamp } from '$lib/core/series';
import type { Labels, SeriesLabels } from '$lib/core/signal';
import type { Duration, Instant } from '$lib/core/time';
import { isSelfDescribed } from './self-described';
import type { Queryable } from '../db/pool';
import { metricNames } from './metrics';

/** A series with everything conditions and legends look at. */
export interface Series {
  readonly id: number;
  readonly accountId: number;
  readonly resourceId: number;
  readonly metric: string;
  readonly service: string;
  /** Where it is from, and its own labels, such as `class`. */
  readonly labels: Labels & Whereabouts;
  /** What conditions look at: its labels, the tags of its resource as `tag.name`. */
  readonly conditionLabels: SeriesLabels;
  /** Those of its resource alone: what groups look at. */
  readonly ofResource: Labels;
  readonly kind: 'gauge' | 'delta' | 'cumulative';
  readonly shape: string;
  readonly unit: string;
  /** Learned of what is sent, else as its metric says. */
  readonly samplingMs: Duration;
  readonly stamp: Stamp;
  readonly delayMs: Duration;
  readonly endedAt: Instant | null;
}

/** Where a series is from. */
export type Whereabouts = Readonly<Record<'account' | 'provider' | 'region' | 'service' | 'type' | 'resource', string>>;

/** Who a series is, as its source names it. */
export interface SeriesIdentity {
  readonly resource: string;
  readonly metric: string;
  readonly labels: Readonly<Record<string, string>>;
}

/** Every series of an account by its source's names. */
export async function identitiesOf(db: Queryable, accountId: number): Promise<(SeriesIdentity & { id: number })[]> {
  return db.rows<SeriesIdentity & { id: number }>(
    `select series.id, resources.provider_id as resource, series.metric, series.labels
     from series
     join resources on resources.account_id = series.account_id and resources.id = series.resource_id
     where series.account_id = $1`,
    [accountId]
  );
}

/** Makes series that are not there yet; those whose resource is not known are left out. @returns all of them that are there now */
export async function makeSeries(
  db: Queryable,
  accountId: number,
  wanted: readonly SeriesIdentity[]
): Promise<(SeriesIdentity & { id: number })[]> {
  const values = [
    accountId,
    wanted.map(({ resource }) => resource),
    wanted.map(({ metric }) => metric),
    wanted.map(({ labels }) => JSON.stringify(labels))
  ];
  await db.rows(
    `insert into series (account_id, resource_id, metric, labels)
     select $1, resources.id, wanted.metric, wanted.labels::jsonb
     from unnest($2::text[], $3::text[], $4::text[]) as wanted (resource, metric, labels)
     join resources on resources.account_id = $1 and resources.provider_id = wanted.resource
     on conflict (account_id, resource_id, metric, labels) do nothing`,
    values
  );
  return db.rows<SeriesIdentity & { id: number }>(
    `select series.id, wanted.resource, series.metric, series.labels
     from unnest($2::text[], $3::text[], $4::text[]) as wanted (resource, metric, labels)
     join resources on resources.account_id = $1 and resources.provider_id = wanted.resource
     join series on series.account_id = $1 and series.resource_id = resources.id and series.metric = wanted.metric and series.labels = wanted.labels::jsonb`,
    values
  );
}

/** Every series of a metric, or of all metrics that a pattern matches, by resource name. */
export const seriesOfMetric = (db: Queryable, metric: string): Promise<Series[]> => seriesOfMetrics(db, [metric]);

/**
 * Every series of some metrics and patterns, each once, by resource name. What they are of is read once and met here: a board shows thousands of series of a few
 * dozen resources, and a join writes each resource out for each of its series.
 */
export async function seriesOfMetrics(db: Queryable, metrics: readonly string[]): Promise<Series[]> {
  const patterns = metrics.filter(isPattern);
  const matched = patterns.length > 0 ? (await metricNames(db)).filter((name) => matchesAny(patterns, name)) : [];
  const names = [...new Set([...metrics, ...matched])];
  const [found, described] = await Promise.all([
    db.rows<FoundSeries>(
      `select id, account_id as "accountId", resource_id as "resourceId", metric, nullif(labels, '{}') as own, interval_ms as "intervalMs"
       from series
       where metric = any($1)`,
      [names]
    ),
    db.rows<DescribedMetric>(
      `select provider, account_id as "accountId", name, kind, shape, unit, sampling_ms as "samplingMs", delay_ms as "delayMs"
       from metrics
       where name = any($1)`,
      [names]
    )
  ]);
  const resources = await placesOf(db, [...new Set(found.map(({ resourceId }) => resourceId))]);
  const nameOf = (provider: string | undefined, accountId: number | null, metric: string): string =>
    `${provider} ${accountId ?? ''} ${metric}`;
  const metricsOf = new Map(described.map((one) => [nameOf(one.provider, one.accountId, one.name), one]));
  return found
    .flatMap((one) => {
      const of = resources.get(one.resourceId);
      const provider = of?.place.provider;
      const metric = metricsOf.get(nameOf(provider, isSelfDescribed(provider) ? one.accountId : null, one.metric));
      return of && metric ? [{ series: seriesAt(one, of, metric), order: of.order }] : []; // else removed in between
    })
    .sort((a, b) => a.order - b.order || a.series.id - b.series.id)
    .map(({ series }) => series);
}

type FoundSeries = Pick<Series, 'id' | 'accountId' | 'resourceId' | 'metric'> & {
  /** Its own labels; null when it has none. */
  readonly own: Readonly<Record<string, string>> | null;
  /** How far apart its samples come, as was learned of them; null while its metric says so. */
  readonly intervalMs: Duration | null;
};
type DescribedMetric = Pick<Series, 'kind' | 'shape' | 'unit' | 'samplingMs' | 'delayMs'> & {
  readonly provider: string;
  /** Of what a key sends: the key's account. What a provider describes is the same in all its accounts. */
  readonly accountId: number | null;
  readonly name: string;
};

/** What all series of one resource share. */
interface OfResource {
  readonly place: Whereabouts;
  readonly labels: Labels;
  readonly endedAt: Instant | null;
  /** Its place among the others by name; those of one name share it. */
  readonly order: number;
}

async function placesOf(db: Queryable, ids: readonly number[]): Promise<ReadonlyMap<number, OfResource>> {
  const rows = await db.rows<
    Whereabouts & Omit<OfResource, 'place' | 'labels'> & { id: number; tags: Record<string, string> }
  >(
    `select resources.id, accounts.name as account, accounts.provider, region, resources.name as resource, service, type, tags, ended_at as "endedAt",
       dense_rank() over (order by resources.name)::integer as "order"
     from resources
     join accounts on accounts.id = account_id
     where resources.id = any($1)`,
    [ids]
  );
  return new Map(
    rows.map(({ id, tags, endedAt, order, account, provider, region, service, type, resource }) => {
      const place: Whereabouts = { account, provider, region, service, type, resource };
      const tagged = Object.entries(tags).map(([name, value]) => [`tag.${name}`, value]);
      return [id, { place, labels: { ...(Object.fromEntries(tagged) as Labels), ...place }, endedAt, order }];
    })
  );
}

/** Property by property: spreading thousands of rows takes longer than reading them. */
function seriesAt(
  { id, accountId, resourceId, metric, own, intervalMs }: FoundSeries,
  { place, labels: ofResource, endedAt }: OfResource,
  { kind, shape, unit, samplingMs, delayMs }: DescribedMetric
): Series {
  const labels = own === null ? place : labelsAt(place, own);
  const conditionLabels = own === null ? ofResource : { ...ofResource, ...labels };
  return {
    id,
    accountId,
    resourceId,
    metric,
    service: place.service,
    labels,
    conditionLabels,
    ofResource,
    kind,
    shape,
    unit,
    samplingMs: intervalMs ?? samplingMs,
    stamp: place.provider === 'pushed' ? 'end' : 'start',
    delayMs,
    endedAt
  };
}

/** The labels of a series: where it is from, and its own, those of the same name as `own.name`. */
function labelsAt(place: Whereabouts, own: Readonly<Record<string, string>>): Labels & Whereabouts {
  const named = Object.entries(own).map(([name, value]) => [Object.hasOwn(place, name) ? `own.${name}` : name, value]);
  return { ...(Object.fromEntries(named) as Labels), ...place };
}

/** What Bussola measures of resources itself: nothing that is collected of them, and no heartbeat. */
const ownOfResources = [...Object.values(resourceMetrics), resourceCost];

/** Series of each resource, and of each service of each account, of what is collected. */
export async function seriesCounts(
  db: Queryable
): Promise<{ accountId: number; resourceId: number; metric: string; series: number }[]> {
  return db.rows(
    `select account_id as "accountId", resource_id as "resourceId", metric, count(*)::integer as series
     from series
     where metric <> all ($1::text[])
     group by account_id, resource_id, metric`,
    [ownOfResources]
  );
}

/** Every series of what is collected of resources that are there, with its resource and how its samples come. */
export const seriesOfResources = (
  db: Queryable
): Promise<{ id: number; resourceId: number; samplingMs: number; delayMs: number }[]> =>
  db.rows(
    `select series.id, series.resource_id as "resourceId", coalesce(series.interval_ms, sampling_ms) as "samplingMs", delay_ms as "delayMs"
     from series
     join resources on resources.account_id = series.account_id and resources.id = series.resource_id
     join accounts on accounts.id = series.account_id
     join metrics on metrics.provider = accounts.provider and metrics.name = series.metric
       and (metrics.account_id is null or metrics.account_id = series.account_id)
     where resources.ended_at is null and series.metric <> all ($1::text[])
     order by series.id`,
    [ownOfResources]
  );

/** A text that is another when series were made or removed. */
export async function seriesSignature(db: Queryable): Promise<string> {
  const [row] = await db.rows<{ count: number; newest: number | null }>(
    'select count(*)::integer as count, max(id)::integer as newest from series'
  );
  return `${row?.count} ${row?.newest}`;
}

/** The names of the metrics that series of a resource have. */
export async function metricsOfResources(
  db: Queryable,
  accountId: number,
  resourceIds: readonly number[]
): Promise<string[]> {
  const rows = await db.rows<{ metric: string }>(
    `select metric
     from series
     where account_id = $1 and resource_id = any($2::integer[])
     group by metric
     order by min(array_position($2::integer[], resource_id)), metric`,
    [accountId, resourceIds]
  );
  return rows.map(({ metric }) => metric);
}

/** The metrics that a resource reports, by name. */
export async function metricsOfResource(db: Queryable, accountId: number, resourceId: number): Promise<string[]> {
  const rows = await db.rows<{ metric: string }>(
    'select distinct metric from series where account_id = $1 and resource_id = $2 order by metric',
    [accountId, resourceId]
  );
  return rows.map(({ metric }) => metric);
}

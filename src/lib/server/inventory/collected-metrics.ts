// series, metrics: what comes in
import type { Queryable } from '../db/pool';

/** A metric that comes in. */
export interface CollectedMetric {
  readonly name: string;
  readonly title: string;
  readonly service: string;
  readonly series: number;
  /** By how often its series are sampled. */
  readonly samplesADay: number;
}

/** Metrics with series of resources that are there, those with the most samples first; what Bussola measures itself is left out. */
export const collectedMetrics = (db: Queryable): Promise<CollectedMetric[]> =>
  db.rows(
    `select counted.metric as name, coalesce(described.title, counted.metric) as title, counted.service, counted.series,
       (counted.series * 86400000.0 / greatest(coalesce(described.sampling, 60000), 1))::bigint as "samplesADay"
     from (
       select series.metric, min(resources.service) as service, count(*)::integer as series
       from series
       join resources on resources.account_id = series.account_id and resources.id = series.resource_id
       join accounts on accounts.id = series.account_id
       where resources.ended_at is null and accounts.removed_at is null and accounts.provider <> 'bussola'
       group by series.metric) as counted
     left join (
       select name, min(title) as title, min(sampling_ms) as sampling from metrics group by name) as described
       on described.name = counted.metric
     order by 5 desc, 1`
  );

// metrics, series, resources: what there is to choose from
import type { CatalogueEntry } from '$lib/core/catalogue';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { allMetrics } from '../../inventory/metrics';

/** Values of one label that are indexed for searching. */
const mostValues = 40;
/** A metric is stale when its newest sample is older than its delay and so many sampling intervals, and five minutes. */
const patience = 5;

interface SeriesRow {
  readonly metric: string;
  readonly account: string;
  readonly provider: string;
  readonly region: string;
  readonly ids: readonly number[];
}

/**
 * All metrics with where they exist and how their samples arrive.
 *
 * @param newestOf start of the newest sample of each series; null where there is none
 */
export async function catalogueEntries(
  db: Queryable,
  newestOf: (ids: readonly number[]) => readonly (number | null)[],
  now: Instant
): Promise<CatalogueEntry[]> {
  const [metrics, series, labels] = await Promise.all([
    allMetrics(db),
    db.rows<SeriesRow>(
      `select series.metric, accounts.name as account, accounts.provider, resources.region, array_agg(series.id) as ids
         from series
         join resources on resources.account_id = series.account_id and resources.id = series.resource_id
         join accounts on accounts.id = series.account_id
         group by series.metric, accounts.name, accounts.provider, resources.region`
    ),
    db.rows<{ metric: string; label: string; values: string[] }>(
      `select metric, label, (array_agg(value order by value))[1:${mostValues}] as values
         from (select distinct metric, each.key as label, each.value from series, jsonb_each_text(labels) as each) as found
         group by metric, label`
    )
  ]);
  const byMetric = grouped(series);
  const ids = series.flatMap((row) => row.ids);
  const newest = new Map(newestOf(ids).map((at, index) => [ids[index] as number, at] as const));
  const labelsOf = grouped(labels);
  return metrics.map(({ name, title, description, unit, kind, shape, service, resourceType, samplingMs, delayMs }) => {
    const rows = byMetric.get(name) ?? [];
    const latest = rows
      .flatMap((row) => row.ids.map((id) => newest.get(id) ?? null))
      .reduce<number | null>((best, at) => (at === null ? best : Math.max(best ?? 0, at)), null);
    const due = now - delayMs - patience * samplingMs - 300_000;
    const distinct = (of: (row: SeriesRow) => string) => [...new Set(rows.map(of))].sort();
    return {
      name,
      title,
      description,
      unit,
      kind: kind as CatalogueEntry['kind'],
      shape,
      service,
      resourceType,
      samplingMs,
      delayMs,
      series: rows.reduce((sum, row) => sum + row.ids.length, 0),
      accounts: distinct(({ account }) => account),
      providers: distinct(({ provider }) => provider),
      regions: distinct(({ region }) => region),
      labels: Object.fromEntries((labelsOf.get(name) ?? []).map(({ label, values }) => [label, values])),
      newest: latest as Instant | null,
      state: latest === null ? 'not collected' : latest < due ? 'stale' : 'collected'
    };
  });
}

function grouped<Row extends { readonly metric: string }>(rows: readonly Row[]): Map<string, Row[]> {
  const groups = new Map<string, Row[]>();
  for (const row of rows) {
    const group = groups.get(row.metric);
    if (group) group.push(row);
    else groups.set(row.metric, [row]);
  }
  return groups;
}

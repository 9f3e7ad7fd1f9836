// exemplars
import { mended } from '$lib/core/forms/storable';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Exemplar } from '../providers/port/provider';

const cellMs = 300_000;
/** What one says of itself, at most: OpenMetrics has 128 characters. */
const mostText = 256;

/** Keeps exemplars: of each series the one with the largest value in every five minutes, since that is the one to look at. */
export async function saveExemplars(
  db: Queryable,
  accountId: number,
  found: readonly { readonly seriesId: number; readonly exemplars: readonly Exemplar[] }[]
): Promise<void> {
  const largest = new Map<string, { seriesId: number; cell: number } & Exemplar>();
  for (const { seriesId, exemplars } of found)
    for (const exemplar of exemplars) {
      if (JSON.stringify(exemplar.labels).length > mostText) continue;
      const cell = Math.floor(exemplar.at / cellMs) * cellMs;
      const key = `${seriesId}/${cell}`;
      if (exemplar.value >= (largest.get(key)?.value ?? -Infinity)) largest.set(key, { ...exemplar, seriesId, cell });
    }
  if (largest.size === 0) return;
  const rows = [...largest.values()];
  await db.rows(
    `insert into exemplars (account_id, series_id, cell, at, value, labels)
     select $1, * from unnest($2::integer[], $3::bigint[], $4::bigint[], $5::double precision[], $6::jsonb[])
     on conflict (account_id, series_id, cell) do update
     set at = excluded.at, value = excluded.value, labels = excluded.labels
     where excluded.value >= exemplars.value`,
    [
      accountId,
      rows.map(({ seriesId }) => seriesId),
      rows.map(({ cell }) => cell),
      rows.map(({ at }) => at),
      rows.map(({ value }) => value),
      rows.map(({ labels }) => JSON.stringify(mended(labels)))
    ]
  );
}

/** An exemplar as a resource's margin shows it. */
export interface ShownExemplar extends Exemplar {
  readonly metric: string;
}

/** The newest exemplars of a resource's series, newest first. */
export const exemplarsOf = (db: Queryable, resourceId: number, most: number): Promise<ShownExemplar[]> =>
  db.rows<ShownExemplar>(
    `select exemplars.at, value, exemplars.labels, metrics.title as metric
     from series
     join accounts on accounts.id = series.account_id
     join metrics on metrics.provider = accounts.provider and metrics.name = series.metric and (metrics.account_id is null or metrics.account_id = accounts.id)
     join exemplars on exemplars.account_id = series.account_id and exemplars.series_id = series.id
     where series.resource_id = $1
     order by exemplars.at desc
     limit $2`,
    [resourceId, most]
  );

/** Forgets exemplars that are older. */
export async function forgetExemplars(db: Queryable, before: Instant): Promise<void> {
  await db.rows('delete from exemplars where cell < $1', [before]);
}

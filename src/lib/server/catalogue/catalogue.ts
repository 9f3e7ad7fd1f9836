// metrics, series, resources: what there is to choose from
import { CatalogueSearch, type CatalogueEntry } from '$lib/core/catalogue';
import type { Clock } from '$lib/core/time';
import type { Changes } from '../changes';
import type { Queryable } from '../db/pool';
import { allMetrics } from '../intake/resources';
import type { StoreClient } from '../store/open-store';

/** How long what was read of the database serves. */
const servesMs = 30_000;
/** Values of one label that are kept for searching. */
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

/** The catalogue of metrics, read from the database now and then and searched in memory. One for the process. */
export class Catalogue {
  readonly #db: Queryable;
  readonly #store: StoreClient;
  readonly #clock: Clock;
  #search: Promise<CatalogueSearch> | null = null;
  #readAt = 0;

  constructor({ db, store, clock, changes }: { db: Queryable; store: StoreClient; clock: Clock; changes: Changes }) {
    this.#db = db;
    this.#store = store;
    this.#clock = clock;
    changes.on('account', () => (this.#search = null));
  }

  /** The index of all metrics as they are known now. */
  search(): Promise<CatalogueSearch> {
    const now = this.#clock.now();
    if (this.#search === null || now - this.#readAt > servesMs || now < this.#readAt) {
      this.#readAt = now;
      this.#search = this.#read();
      this.#search.catch(() => (this.#search = null)); // whoever asked has the error; the next one reads again
    }
    return this.#search;
  }

  async #read(): Promise<CatalogueSearch> {
    const [metrics, series, labels] = await Promise.all([
      allMetrics(this.#db),
      this.#db.rows<SeriesRow>(
        `select series.metric, accounts.name as account, accounts.provider, resources.region, array_agg(series.id) as ids
         from series
         join resources on resources.account_id = series.account_id and resources.id = series.resource_id
         join accounts on accounts.id = series.account_id
         group by series.metric, accounts.name, accounts.provider, resources.region`
      ),
      this.#db.rows<{ metric: string; label: string; values: string[] }>(
        `select metric, label, (array_agg(value order by value))[1:${mostValues}] as values
         from (select distinct metric, each.key as label, each.value from series, jsonb_each_text(labels) as each) as found
         group by metric, label`
      )
    ]);
    const byMetric = grouped(series);
    const ids = series.flatMap((row) => row.ids);
    const newest = new Map(
      (await this.#store.samples.newest(ids)).map((at, index) => [ids[index] as number, at] as const)
    );
    const now = this.#clock.now();
    return new CatalogueSearch(
      metrics.map(({ name, title, description, unit, kind, shape, service, resourceType, samplingMs, delayMs }) => {
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
          labels: Object.fromEntries(
            labels.filter(({ metric }) => metric === name).map(({ label, values }) => [label, values])
          ),
          newest: latest,
          state: latest === null ? 'not collected' : latest < due ? 'stale' : 'collected'
        };
      })
    );
  }
}

function grouped(rows: readonly SeriesRow[]): Map<string, SeriesRow[]> {
  const groups = new Map<string, SeriesRow[]>();
  for (const row of rows) {
    const group = groups.get(row.metric);
    if (group) group.push(row);
    else groups.set(row.metric, [row]);
  }
  return groups;
}

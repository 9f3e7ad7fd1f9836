// series, resources: their labels
import type { Queryable } from '../db/pool';

/** The names of the labels that series of some metrics have beyond those that every series has. */
export async function labelNames(db: Queryable, metrics: readonly string[]): Promise<Map<string, readonly string[]>> {
  const rows = await db.rows<{ metric: string; labels: string[] }>(
    `select metric, array_agg(distinct label order by label) as labels
     from series, jsonb_object_keys(labels) as label
     where metric = any($1)
     group by metric`,
    [metrics]
  );
  return new Map(rows.map(({ metric, labels }) => [metric, labels]));
}

/** Where the values of labels are that every series has. */
const standardColumns: Readonly<Record<string, string>> = {
  account: 'accounts.name',
  provider: 'accounts.provider',
  region: 'resources.region',
  service: 'resources.service',
  type: 'resources.type',
  resource: 'resources.name'
};

/**
 * The values that a label has here: of all resources for the labels that every series has and for tags, of the series of some metrics for others.
 *
 * @param label such as `account`, `tag.tier` or `class`; groups are not among them
 */
export async function valuesOfLabel(db: Queryable, label: string, metrics: readonly string[]): Promise<string[]> {
  const column = Object.hasOwn(standardColumns, label) ? standardColumns[label] : undefined;
  const tag = /^tag\.(.+)$/.exec(label)?.[1];
  const of = async (value: string, from: string, values: readonly unknown[]): Promise<string[]> => {
    const rows = await db.rows<{ value: string }>(
      `select distinct ${value} as value from ${from} order by value`,
      values
    );
    return rows.map((row) => row.value).filter((one) => one !== null && one !== '');
  };
  const resources = 'resources join accounts on accounts.id = resources.account_id';
  if (column !== undefined) return of(column, resources, []);
  if (tag !== undefined) return of('resources.tags ->> $1', resources, [tag]);
  return of('series.labels ->> $1', 'series where metric = any($2)', [label, metrics]);
}

import { plainSignal, usualStatistic, type Worked } from '$lib/core/signal';
import { Refusal } from '$lib/core/problem/problem';
import { after, minute, range, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { allMetrics } from '../../inventory/metrics';
import { resourceById } from '../../inventory/resources';
import { metricsOfResources } from '../../inventory/series';
import { resolveSignal, stockFor, workOf } from './resolve';
import type { AskedWork } from './work';

/** A metric of a resource around a moment. */
export interface MetricThen {
  readonly metric: string;
  readonly title: string;
  /** UCUM code. */
  readonly unit: string;
  /** One value for each minute, from {@link lead} before the moment; null for a gap. */
  readonly values: readonly (number | null)[];
  /** In the minute of the moment; null for a gap. */
  readonly value: number | null;
}

const step = minute;
/** How much before the moment and after it is shown. */
const [lead, tail] = [times(45, minute), times(15, minute)];
/** Metrics that are shown, and that are looked at: one that has several series, such as of each disk, is none of the resource as a whole. */
const [mostMetrics, mostLooked] = [3, 8];
/** How full or busy something is says most: what has a unit of shares comes first among what is recommended. */
const rank = ({ recommended, unit }: { readonly recommended: boolean; readonly unit: string }): number =>
  (recommended ? 2 : 0) + (unit === '%' ? 1 : 0);

/**
 * The first metrics of a resource around a moment: those that are recommended before others, shares before amounts.
 *
 * @throws Refusal `not-found`
 */
export async function resourceThen(
  {
    db,
    evaluator
  }: { readonly db: Queryable; readonly evaluator: { evaluateAll(asked: readonly AskedWork[]): Promise<Worked[]> } },
  resourceId: number,
  at: Instant,
  now: Instant
): Promise<MetricThen[]> {
  const resource = await resourceById(db, resourceId);
  if (resource === null)
    throw new Refusal('not-found', 'There is no such resource.', 'Look for it in the list of resources.');
  const names = new Set(await metricsOfResources(db, resource.accountId, [resourceId]));
  const metrics = (await allMetrics(db))
    .filter(({ name }) => names.has(name))
    .sort((a, b) => rank(b) - rank(a))
    .slice(0, mostLooked);
  const signals = metrics.map(({ name, kind }) =>
    plainSignal({
      metric: name,
      statistic: usualStatistic(kind),
      where: [
        { label: 'account', is: [resource.account] },
        { label: 'resource', is: [resource.name] }
      ],
      step: 'PT1M'
    })
  );
  const stock = await stockFor(db, signals);
  const first = (Math.floor((at - lead) / step) * step) as Instant;
  const end = after(at, tail);
  const until = end < now ? end : now;
  if (until <= first) return [];
  const span = range(first, until);
  const works = await Promise.all(
    signals.map(async (signal) => ({ work: workOf(await resolveSignal(db, signal, stock), now), span, step }))
  );
  const worked = await evaluator.evaluateAll(works);
  const found = metrics.flatMap(({ name, title }, index): MetricThen[] => {
    const one = worked[index];
    const row = one?.kind === 'worked' ? one.rows[0] : undefined;
    const [column, another] = row?.columns ?? [];
    if (one?.kind !== 'worked' || row === undefined || column === undefined || another !== undefined) return [];
    const values = Array.from(column.values, (value) => (Number.isFinite(value) ? value : null));
    const cell = Math.floor((at - one.grid.start) / step);
    return [{ metric: name, title, unit: row.unit, values, value: values[cell] ?? null }];
  });
  return found.slice(0, mostMetrics);
}

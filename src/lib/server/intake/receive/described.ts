import { refusals, type ReceivedSeries, type RefusalReason } from '$lib/core/receive';
import { conversion } from '$lib/core/units';
import { describedFor, type DescribedUnit } from '../../inventory/metrics';
import type { Queryable } from '../../db/pool';

/** A series as it can be stored: its numbers in the unit that its metric has here. */
export type Fitting =
  | { readonly kind: 'fits'; readonly series: ReceivedSeries }
  | { readonly kind: 'refused'; readonly reason: RefusalReason; readonly why: string };

/**
 * Brings what a key sends to how its metrics are described: by the key's first words, or, for the unit, by a provider that describes a metric of that name. What is in another
 * unit that measures the same is converted; what cannot be converted, or is of another kind than before, is refused. Nothing described is ever changed by it.
 *
 * @returns in the order of `series`
 */
export async function fitting(
  db: Queryable,
  accountId: number,
  series: readonly ReceivedSeries[]
): Promise<readonly Fitting[]> {
  const known = new Map<string, DescribedUnit>();
  const names = [...new Set(series.map(({ metric }) => metric.name))];
  for (const one of await describedFor(db, accountId, names)) if (!known.has(one.name)) known.set(one.name, one);
  return series.map((one): Fitting => {
    const { name, unit, kind } = one.metric;
    const as = known.get(name);
    if (as === undefined) {
      known.set(name, { name, accountId, unit, kind }); // of two words in one request, the first counts
      return { kind: 'fits', series: one };
    }
    if (as.accountId !== null && as.kind !== kind)
      return {
        kind: 'refused',
        reason: refusals.otherKind,
        why: `${name} is a ${as.kind} of this key, and was sent as ${kind}`
      };
    const converted = conversion(unit, as.unit);
    if (converted.kind === 'refused')
      return {
        kind: 'refused',
        reason: refusals.otherUnit,
        why: `${name} is in ${as.unit} here, and ${unit} does not measure the same`
      };
    return { kind: 'fits', series: inUnit(one, as.unit, converted) };
  });
}

function inUnit(
  series: ReceivedSeries,
  unit: string,
  { scale, offset }: { readonly scale: number; readonly offset: number }
): ReceivedSeries {
  const metric = { ...series.metric, unit };
  if (scale === 1 && offset === 0) return { ...series, metric };
  const points = series.points.map(
    ([at, sum, count, min, max]) =>
      [at, sum * scale + count * offset, count, min * scale + offset, max * scale + offset] as const
  );
  return { ...series, metric, points };
}

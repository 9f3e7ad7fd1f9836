import { z } from 'zod';
import { conditionMatcher, pickSchema, standardLabels, type LabelCondition } from '$lib/core/signal';
import { allGroups } from '../groups/groups';
import type { Queryable } from '../../db/pool';
import { seriesOfMetric, type Series } from '../../inventory/series';
import { withGroups } from './resolve';

/** Body of `POST /api/v1/picks`. */
export const matchSchema = pickSchema.pick({ metric: true, where: true });

export type MatchAsked = z.infer<typeof matchSchema>;

/** Values of a label that are listed at most. */
const mostValues = 200;

/** A label of a pick's series, with the values it has and how many series have each, given all other conditions. */
export interface MatchedLabel {
  readonly name: string;
  readonly values: readonly { readonly value: string; readonly count: number }[];
  /** How many values there are in all. */
  readonly distinct: number;
}

export interface Matched {
  readonly total: number;
  readonly matched: number;
  /** How many series are left after each condition, one after the other. */
  readonly left: readonly number[];
  readonly labels: readonly MatchedLabel[];
}

/** What a pick selects, and what it could choose from. */
export async function matchedBy(db: Queryable, { metric, where }: MatchAsked): Promise<Matched> {
  const all = withGroups(await seriesOfMetric(db, metric), await allGroups(db));
  let remaining: readonly Series[] = all;
  const left = where.map((condition) => {
    const meets = conditionMatcher([condition]);
    remaining = remaining.filter(({ conditionLabels }) => meets(conditionLabels));
    return remaining.length;
  });
  const names = new Set(all.flatMap(({ conditionLabels }) => Object.keys(conditionLabels)));
  const labels = [...names]
    .sort((one, other) => placeOf(one) - placeOf(other) || one.localeCompare(other))
    .map((name) => labelOf(name, all, where));
  return { total: all.length, matched: remaining.length, left, labels };
}

/** Own labels first, then the standard ones, then tags: as people look for them. */
function placeOf(name: string): number {
  const standard = standardLabels.findIndex((label) => label === name);
  if (standard >= 0) return 1 + standard;
  return name.startsWith('tag.') ? 100 : 0;
}

function labelOf(name: string, all: readonly Series[], where: readonly LabelCondition[]): MatchedLabel {
  const meets = conditionMatcher(where.filter(({ label }) => label !== name));
  const counts = new Map<string, number>();
  for (const { conditionLabels } of all) {
    if (!meets(conditionLabels)) continue;
    const own = conditionLabels[name] ?? '';
    for (const value of typeof own === 'string' ? [own] : own) counts.set(value, (counts.get(value) ?? 0) + 1);
  }
  counts.delete('');
  const values = [...counts]
    .map(([value, count]) => ({ value, count }))
    .sort((one, other) => other.count - one.count || one.value.localeCompare(other.value, 'en', { numeric: true }));
  return { name, values: values.slice(0, mostValues), distinct: values.length };
}

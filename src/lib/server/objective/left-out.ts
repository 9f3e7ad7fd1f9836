import { belonging } from '$lib/core/group';
import { covers, occurrencesIn } from '$lib/core/shelving';
import type { Labels, SeriesLabels } from '$lib/core/signal';
import type { Instant, Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Series } from '../inventory/series';
import { allGroups } from '../query/groups/groups';
import { allMaintenance } from '../shelving/shelvings';

/** Occurrences of one maintenance that are looked at. */
const mostOccurrences = 2000;

/** A span that is left out of a promise. */
export interface LeftOut extends Range {
  readonly reason: string;
}

/**
 * The planned maintenance, within a span, of anything that a promise is measured on: of one of its resources, their service, account, groups or labels, or of its alarm.
 *
 * @param sources the series that its signals pick
 * @returns in order; they may overlap
 */
export async function leftOutOf(
  db: Queryable,
  sources: readonly Series[],
  alarmId: number | null,
  span: Range
): Promise<LeftOut[]> {
  const maintenance = await allMaintenance(db);
  if (maintenance.length === 0) return [];
  const groups = (await allGroups(db)).map(({ id, rule }) => ({ id, belongs: belonging(rule) }));
  // As incidents on these series would be looked at; those that look alike once.
  const subjects = new Map(
    sources.map(({ labels, conditionLabels, ofResource, service }) => {
      const seen = { ...tagsIn(conditionLabels), ...labels };
      const subject = {
        ...{ severity: 'critical' as const, service, incidentId: 0, alarmId: alarmId ?? 0, labels: seen },
        ...{ account: labels.account, region: labels.region, resource: labels.resource },
        groupIds: groups.flatMap(({ id, belongs }) => (belongs(ofResource) ? [id] : []))
      };
      return [JSON.stringify(seen), subject] as const;
    })
  );
  const all = [...subjects.values()];
  return maintenance
    .filter(({ shelving: { scope } }) => all.some((subject) => covers({ ...scope, severities: [] }, subject)))
    .flatMap(({ shelving, endedAt }) =>
      occurrencesIn(shelving, span, mostOccurrences).flatMap(({ from, to }) => {
        const end = Math.min(to, endedAt ?? to) as Instant;
        return end > from ? [{ from, to: end, reason: shelving.reason }] : [];
      })
    )
    .sort((a, b) => a.from - b.from);
}

/** The tags of a resource, among the labels that conditions look at. @example tagsIn({ 'tag.team': 'data', class: '5xx' }) // { team: 'data' } */
const tagsIn = (labels: SeriesLabels): Labels =>
  Object.fromEntries(
    Object.entries(labels).flatMap(([name, value]) =>
      name.startsWith('tag.') && typeof value === 'string' ? [[name.slice('tag.'.length), value]] : []
    )
  );

/** Whether a cell of a length that begins at an instant is touched by one of some spans, which are in order. */
export function touchedBy(spans: readonly Range[], step: number): (start: Instant) => boolean {
  const merged: { from: number; to: number }[] = [];
  for (const { from, to } of spans) {
    const last = merged.at(-1);
    if (last !== undefined && from <= last.to) last.to = Math.max(last.to, to);
    else merged.push({ from, to });
  }
  return (start) => {
    let [low, high] = [0, merged.length];
    while (low < high) {
      const middle = (low + high) >>> 1;
      if ((merged[middle]?.to ?? 0) <= start) low = middle + 1;
      else high = middle;
    }
    const next = merged[low];
    return next !== undefined && next.from < start + step;
  };
}

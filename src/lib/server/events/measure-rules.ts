import { before, minute, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { ownSample, type OwnMeasures } from '../intake/own/own-account';
import { allEventRules } from './event-rules';

const resourceOf = (id: number): string => `event-rule/${id}`;

/** How many events matched each rule in the minute before, by when they arrived: a metric of Bussola's own, a resource for each rule. */
export async function measureEventRules(db: Queryable, now: Instant): Promise<OwnMeasures> {
  const rules = (await allEventRules(db)).filter(({ rule }) => rule.enabled);
  if (rules.length === 0) return { resources: [], series: [] };
  const to = (Math.floor(now / minute) * minute) as Instant;
  const counts = new Map(
    (
      await db.rows<{ id: number; count: number }>(
        `select rule_id as id, count(*)::integer as count
         from event_effects
         where judged_at >= $1 and judged_at < $2 and effect <> 'clears'
         group by rule_id`,
        [before(to, minute), to]
      )
    ).map(({ id, count }) => [id, count])
  );
  return {
    resources: rules.map(({ id, rule }) => ({
      ...{ providerId: resourceOf(id), name: rule.name, type: 'event-rule', service: 'accounts', region: '' },
      ...{ tags: {}, guest: 'none' as const, formerNames: [] }
    })),
    series: rules.map(({ id }) => ownSample(resourceOf(id), 'events.matched', before(to, minute), counts.get(id) ?? 0))
  };
}

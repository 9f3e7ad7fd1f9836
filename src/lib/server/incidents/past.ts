// incidents, incident_notes
import type { Closing } from '$lib/core/incident';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Incident } from './incidents';

/** An earlier incident of the same series of an alarm, or of an event rule on the same thing. */
export interface PastIncident {
  readonly id: number;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  readonly acknowledgedBy: string | null;
  /** How it ended, as a person says; null for what nobody said. */
  readonly outcome: Closing | null;
  /** How many notes it has. */
  readonly notes: number;
}

/** Incidents of the same alarm and series, or of the same event rule and thing, that opened before one, since an instant, the newest first. */
export const pastOfSeries = (
  db: Queryable,
  { id, alarmId, eventRuleId, key, openedAt }: Pick<Incident, 'id' | 'alarmId' | 'eventRuleId' | 'key' | 'openedAt'>,
  since: Instant
): Promise<PastIncident[]> =>
  db.rows(
    `select id, opened_at as "openedAt", ended_at as "closedAt", acknowledged_by as "acknowledgedBy",
       case when outcome is not null then jsonb_build_object('outcome', outcome, 'text', outcome_text) end as outcome,
       (select count(*)::integer from incident_notes where incident_id = incidents.id) as notes
     from incidents
     where (alarm_id = $1 or event_rule_id = $6) and key = $2 and id <> $3 and opened_at < $4 and opened_at >= $5
     order by opened_at desc
     limit 1000`,
    [alarmId, key, id, openedAt, since, eventRuleId]
  );

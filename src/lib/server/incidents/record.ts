// incidents, incident_events, state_changes
import { evidenceForm, severities, type Severity } from '$lib/core/alarm';
import { writeStored } from '$lib/core/forms/stored';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Watched } from '../alarms/alarms';
import type { StateChange } from './incidents';

/** Something that happened to an incident. */
export interface NewEvent {
  readonly kind: 'opened' | 'severity' | 'closed' | 'ended';
  readonly at: Instant;
  readonly severity: Severity;
  /** The value of the deciding cell; null when it had none. */
  readonly value: number | null;
  readonly peak: number | null;
}

/** An incident as it is to be written, with what happened to it since it was last written. */
export interface IncidentDraft {
  /** Null for a new one. */
  readonly id: number | null;
  readonly watched: Watched;
  readonly unit: string;
  readonly openedAt: Instant;
  readonly closedAt: Instant | null;
  readonly severity: Severity;
  /** The gravest severity that it had. */
  readonly gravest: Severity;
  readonly peak: number | null;
  readonly events: readonly NewEvent[];
}

/** A change of state, and the position of the incident that it belongs to among the drafts; null for one without. */
export interface NewChange extends StateChange {
  readonly key: string;
  readonly draft: number | null;
}

/**
 * Writes incidents, what happened to them, and the changes of state behind it, in a handful of statements however many there are.
 *
 * @param judgedAfterwards whether they were found in history: no events are written then, since nobody is to be notified
 */
export async function recordIncidents(
  within: Queryable,
  alarmId: number,
  drafts: readonly IncidentDraft[],
  changes: readonly NewChange[],
  recordedAt: Instant,
  judgedAfterwards = false
): Promise<void> {
  const ids = await writeDrafts(within, alarmId, drafts, recordedAt, judgedAfterwards);
  const events = judgedAfterwards
    ? []
    : drafts.flatMap((draft, position) =>
        draft.events.map((event) => ({ ...event, incidentId: ids[position] as number }))
      );
  if (events.length > 0)
    await within.rows(
      `insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity, value, peak)
       select incident_id, $1, kind, at, $2, severity, value, peak
       from unnest($3::integer[], $4::text[], $5::bigint[], $6::text[], $7::double precision[], $8::double precision[])
         with ordinality as event (incident_id, kind, at, severity, value, peak, place)
       order by at, place`,
      [
        alarmId,
        recordedAt,
        events.map(({ incidentId }) => incidentId),
        events.map(({ kind }) => kind),
        events.map(({ at }) => at),
        events.map(({ severity }) => severity),
        events.map(({ value }) => value),
        events.map(({ peak }) => peak)
      ]
    );
  if (changes.length === 0) return;
  await within.rows(
    `insert into state_changes (alarm_id, key, incident_id, at, from_state, to_state, from_severity, to_severity, evidence)
     select $1, key, incident_id, at, from_state, to_state, from_severity, to_severity, evidence::jsonb
     from unnest($2::text[], $3::integer[], $4::bigint[], $5::text[], $6::text[], $7::text[], $8::text[], $9::text[])
       with ordinality as change (key, incident_id, at, from_state, to_state, from_severity, to_severity, evidence, place)
     order by at, place`,
    [
      alarmId,
      changes.map(({ key }) => key),
      changes.map(({ draft }) => (draft === null ? null : (ids[draft] ?? null))),
      changes.map(({ at }) => at),
      changes.map(({ from }) => from),
      changes.map(({ to }) => to),
      changes.map(({ fromSeverity }) => fromSeverity),
      changes.map(({ toSeverity }) => toSeverity),
      changes.map(({ evidence }) => writeStored(evidenceForm, evidence))
    ]
  );
}

/** What a person closed while it was raised is open again once it is graver than it was then. */
async function reopenGraver(within: Queryable, known: readonly IncidentDraft[], at: Instant): Promise<void> {
  await within.rows(
    `with reopened as (
       update incidents
       set dismissed_at = null, dismissed_severity = null, outcome = null, outcome_text = '', outcome_at = null, outcome_by = null,
         acknowledged_at = null, acknowledged_by = null
       from unnest($1::integer[], $2::text[], $3::bigint[]) as draft (id, severity, closed_at)
       where incidents.id = draft.id
         and dismissed_at is not null
         and draft.closed_at is null
         and array_position($4::text[], draft.severity) > array_position($4::text[], dismissed_severity)
       returning incidents.id, alarm_id, draft.severity
     )
     insert into incident_events (incident_id, alarm_id, kind, at, recorded_at, severity)
     select id, alarm_id, 'reopened', $5::bigint, $5::bigint, severity from reopened`,
    [
      known.map(({ id }) => id),
      known.map(({ severity }) => severity),
      known.map(({ closedAt }) => closedAt),
      severities,
      at
    ]
  );
}

/** @returns the id of each draft */
async function writeDrafts(
  within: Queryable,
  alarmId: number,
  drafts: readonly IncidentDraft[],
  recordedAt: Instant,
  judgedAfterwards: boolean
): Promise<number[]> {
  const ids = drafts.map(({ id }) => id ?? 0);
  const known = drafts.filter(({ id }) => id !== null);
  if (known.length > 0) {
    await reopenGraver(within, known, recordedAt);
    await within.rows(
      `update incidents
       set severity = draft.severity, gravest = draft.gravest, opened_at = draft.opened_at, closed_at = draft.closed_at, peak = coalesce(draft.peak, incidents.peak)
       from unnest($1::integer[], $2::text[], $3::text[], $4::bigint[], $5::bigint[], $6::double precision[])
         as draft (id, severity, gravest, opened_at, closed_at, peak)
       where incidents.id = draft.id`,
      [
        known.map(({ id }) => id),
        known.map(({ severity }) => severity),
        known.map(({ gravest }) => gravest),
        known.map(({ openedAt }) => openedAt),
        known.map(({ closedAt }) => closedAt),
        known.map(({ peak }) => peak)
      ]
    );
  }
  const fresh = drafts.flatMap((draft, position) => (draft.id === null ? [{ ...draft, position }] : []));
  if (fresh.length === 0) return ids;
  const made = await within.rows<{ id: number; key: string; openedAt: Instant }>(
    `insert into incidents (alarm_id, alarm_name, key, labels, account_id, series_id, metric, unit, severity, gravest, opened_at, closed_at, peak, judged_afterwards)
     select $1::integer, (select name from alarms where id = $1), draft.key, draft.labels::jsonb, draft.account_id, draft.series_id, series.metric, draft.unit, draft.severity, draft.gravest, draft.opened_at, draft.closed_at, draft.peak, $2
     from unnest($3::text[], $4::text[], $5::integer[], $6::integer[], $7::text[], $8::text[], $9::text[], $10::bigint[], $11::bigint[], $12::double precision[])
       as draft (key, labels, account_id, series_id, unit, severity, gravest, opened_at, closed_at, peak)
     left join series on series.account_id = draft.account_id and series.id = draft.series_id
     returning id, key, opened_at as "openedAt"`,
    [
      alarmId,
      judgedAfterwards,
      fresh.map(({ watched }) => watched.key),
      fresh.map(({ watched }) => JSON.stringify(watched.labels)),
      fresh.map(({ watched }) => watched.accountId),
      fresh.map(({ watched }) => watched.seriesId),
      fresh.map(({ unit }) => unit),
      fresh.map(({ severity }) => severity),
      fresh.map(({ gravest }) => gravest),
      fresh.map(({ openedAt }) => openedAt),
      fresh.map(({ closedAt }) => closedAt),
      fresh.map(({ peak }) => peak)
    ]
  );
  const idOf = new Map(made.map(({ id, key, openedAt }) => [`${openedAt} ${key}`, id]));
  for (const { position, openedAt, watched } of fresh) ids[position] = idOf.get(`${openedAt} ${watched.key}`) ?? 0;
  return ids;
}

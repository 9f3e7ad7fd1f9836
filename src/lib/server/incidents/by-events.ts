// incidents, incident_events: what events raise
import type { Severity } from '$lib/core/alarm';
import type { OutsideEvent, RaisedByEvents } from '$lib/core/events';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

/** What is raised by a rule on a thing. */
export interface OpenByEvents extends Omit<RaisedByEvents, 'events'> {
  readonly incidentId: number;
  readonly ruleId: number;
  readonly thing: string;
}

const columns = `id as "incidentId", event_rule_id as "ruleId", key as thing, opened_at as "openedAt", last_event_at as "lastAt"`;

/** Everything that events have raised and that is not clear. */
export const openByEvents = (db: Queryable): Promise<OpenByEvents[]> =>
  db.rows(`select ${columns} from incidents where event_rule_id is not null and closed_at is null order by id`);

/** Opens an incident. */
export async function openByEvent(
  within: Queryable,
  {
    ruleId,
    name,
    severity,
    thing,
    isHistory
  }: {
    readonly ruleId: number;
    readonly name: string;
    readonly severity: Severity;
    readonly thing: string;
    /** Found in history: nobody is notified. */
    readonly isHistory: boolean;
  },
  event: OutsideEvent,
  recordedAt: Instant
): Promise<OpenByEvents> {
  const { account, placeId, resource, service, region, resourceId, source } = event;
  const where = resource === '' ? { account, source } : { account, resource, service, region };
  const labels = Object.fromEntries(Object.entries(where).filter(([, value]) => value !== ''));
  const opened = oneRow(
    await within.rows<OpenByEvents>(
      `insert into incidents (alarm_id, alarm_name, event_rule_id, event_text, last_event_at, key, labels, account_id, resource_id, severity, gravest, opened_at, judged_afterwards)
       values (null, $1, $2, $3, $4, $5, $6, $7, $8, $9, $9, $4, $10)
       returning ${columns}`,
      [name, ruleId, event.text, event.at, thing, JSON.stringify(labels), placeId, resourceId, severity, isHistory]
    )
  );
  if (!isHistory) await note(within, opened.incidentId, 'opened', event.at, recordedAt, severity);
  return opened;
}

/** Notes that what is raised was raised once more. */
export async function raisedAgain(
  within: Queryable,
  incidentId: number,
  { openedAt, lastAt }: Omit<RaisedByEvents, 'events'>
): Promise<void> {
  await within.rows('update incidents set opened_at = $2, last_event_at = $3 where id = $1', [
    incidentId,
    openedAt,
    lastAt
  ]);
}

/** Closes what events have raised, unless somebody has meanwhile. @param kind ended when its rule is not there any more */
export async function closeByEvent(
  within: Queryable,
  incidentId: number,
  at: Instant,
  recordedAt: Instant,
  kind: 'closed' | 'ended' = 'closed'
): Promise<void> {
  const rows = await within.rows<{ severity: Severity; isHistory: boolean }>(
    'update incidents set closed_at = greatest($2, opened_at) where id = $1 and closed_at is null returning severity, judged_afterwards as "isHistory"',
    [incidentId, at]
  );
  for (const { severity, isHistory } of rows)
    if (!isHistory) await note(within, incidentId, kind, at, recordedAt, severity);
}

/** Ends everything that a rule has raised. */
export async function endOfEventRule(within: Queryable, ruleId: number, at: Instant): Promise<void> {
  const rows = await within.rows<{ id: number }>(
    'select id from incidents where event_rule_id = $1 and closed_at is null',
    [ruleId]
  );
  for (const { id } of rows) await closeByEvent(within, id, at, at, 'ended');
}

const note = (
  within: Queryable,
  incidentId: number,
  kind: 'opened' | 'closed' | 'ended',
  at: Instant,
  recordedAt: Instant,
  severity: Severity
): Promise<unknown> =>
  within.rows(
    'insert into incident_events (incident_id, kind, at, recorded_at, severity) values ($1, $2, $3, $4, $5)',
    [incidentId, kind, at, recordedAt, severity]
  );

// events, incidents, incident_events, state_changes, outbox; plans (how long they are stored)
import { usualPlan, type CollectionPlan } from '$lib/core/intake';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** What retention removes, or would remove, of what happened. */
export interface HistoryRemoval {
  readonly events: number;
  readonly incidents: number;
  /** Messages, beside those about the incidents. */
  readonly messages: number;
}

const day = 86_400_000;
const { eventDays } = usualPlan.keep;

/** How long a service of an account would be stored, by a plan that is not in force yet; only that service is looked at. */
export interface SupposedHistory {
  readonly accountId: number;
  readonly service: string;
  readonly keep: Pick<CollectionPlan['keep'], 'eventDays' | 'incidentDays'>;
}
const values = (at: Instant, supposed?: SupposedHistory): unknown[] => [
  at,
  supposed?.accountId ?? null,
  supposed?.service ?? null,
  supposed?.keep ?? null
];

/** Whether something at a moment is older than the plan of its account and service stores it, or than the usual time where there is none. */
const isDue = (at: string, key: 'eventDays' | 'incidentDays', account: string, service: string): string => `
  ${at} < $1::bigint - ${day}::bigint * coalesce(
    ($4::jsonb->>'${key}')::bigint,
    (select (plans.plan->'keep'->>'${key}')::bigint from plans where plans.account_id = ${account} and plans.service = ${service}),
    ${usualPlan.keep[key]})
  and ($2::integer is null or ${account} = $2 and ${service} = $3::text)`;

const dueEvents = `
  from events
  left join resources on resources.account_id = events.account_id and resources.id = events.resource_id
  where ${isDue('events.at', 'eventDays', 'events.account_id', 'resources.service')}`;

const dueIncidents = `
  from incidents
  left join accounts on accounts.name = incidents.labels ->> 'account'
  where ${isDue('closed_at', 'incidentDays', 'accounts.id', "incidents.labels ->> 'service'")}`;

/** Messages about no incident that is there: confirmations, that an alarm cannot be judged, and about several incidents of which none is left. */
const dueMessages = `
  from outbox
  where incident_id is null and state <> 'queued' and created_at < $1::bigint - ${day}::bigint * ${eventDays}
    and not exists (select from incidents where incidents.id = any(outbox.incident_ids))`;

/** Changes of state that belong to no incident, such as from indeterminate to clear. */
const dueChanges = `
  from state_changes
  where incident_id is null and at < $1::bigint - ${day}::bigint * ${eventDays}`;

/** That an alarm could not be judged. */
const dueUnjudged = `
  from incident_events
  where incident_id is null and handled_at is not null and at < $1::bigint - ${day}::bigint * ${eventDays}`;

/** What was of a time that is over, and what that time was. */
const overLongAgo = [
  ['rota_overrides', 'to_at'],
  ['rota_swaps', 'to_at'],
  ['rota_reminders', 'from_at'],
  ['shelvings', 'case when changes_at is null then created_at end']
] as const;

/**
 * What will have been due for removal at a moment, of what is there now; nothing is changed.
 *
 * @param supposed what if this were how long a service is stored; messages about no incident belong to no service
 * @example await historyDue(db, after(now, week))
 */
export async function historyDue(db: Queryable, at: Instant, supposed?: SupposedHistory): Promise<HistoryRemoval> {
  const count = async (due: string, parameters: unknown[]): Promise<number> => {
    const [row] = await db.rows<{ count: number }>(`select count(*)::integer as count ${due}`, parameters);
    return row?.count ?? 0;
  };
  const [events, incidents, messages] = await Promise.all([
    count(dueEvents, values(at, supposed)),
    count(dueIncidents, values(at, supposed)),
    supposed ? 0 : count(dueMessages, [at])
  ]);
  return { events, incidents, messages };
}

/** Rows that one statement removes, so that it stays short. */
const mostAtOnce = 1000;

/** Removes what is due, some at a time: events, and incidents with their changes of state and messages. Killed in between, the rest is removed the next time. */
export async function forgetHistory(db: Queryable, now: Instant): Promise<void> {
  const some = async (statement: string, parameters: unknown[] = values(now)) => {
    for (let removed = mostAtOnce; removed === mostAtOnce;)
      removed = (await db.rows(`${statement} limit ${mostAtOnce}) returning 1`, parameters)).length;
  };
  await some(`delete from events where (account_id, id) in (select events.account_id, events.id ${dueEvents}`);
  // An incident is removed last, so that nothing of it is left over when this is interrupted.
  await some(`delete from state_changes where id in (
    select state_changes.id from state_changes where incident_id in (select incidents.id ${dueIncidents})`);
  await some(
    `delete from outbox where id in (select outbox.id from outbox where incident_id in (select incidents.id ${dueIncidents})`
  );
  await some(`delete from incidents where id in (select incidents.id ${dueIncidents}`);
  await some(`delete from outbox where id in (select outbox.id ${dueMessages}`, [now]);
  await some(`delete from state_changes where id in (select state_changes.id ${dueChanges}`, [now]);
  await some(`delete from incident_events where id in (select incident_events.id ${dueUnjudged}`, [now]);
  for (const [table, ended] of overLongAgo)
    await some(
      `delete from ${table} where ctid in (select ctid from ${table} where ${ended} < $1::bigint - ${day}::bigint * ${eventDays}`,
      [now]
    );
}

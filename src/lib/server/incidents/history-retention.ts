// events, incidents, state_changes, outbox; plans (how long they are stored)
import { usualPlan } from '$lib/core/intake';
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

/** How long the plan of an account and a service stores something, ms; the usual time where there is none. */
const storedFor = (key: 'eventDays' | 'incidentDays', account: string, service: string): string => `
  ${day}::bigint * coalesce(
    (select (plans.plan->'keep'->>'${key}')::bigint from plans where plans.account_id = ${account} and plans.service = ${service}),
    ${usualPlan.keep[key]})`;

const dueEvents = `
  from events
  left join resources on resources.account_id = events.account_id and resources.id = events.resource_id
  where events.at < $1::bigint - ${storedFor('eventDays', 'events.account_id', 'resources.service')}`;

const dueIncidents = `
  from incidents
  left join accounts on accounts.name = incidents.labels ->> 'account'
  where closed_at < $1::bigint - ${storedFor('incidentDays', 'accounts.id', "incidents.labels ->> 'service'")}`;

/** Messages about no incident: confirmations, and that an alarm cannot be judged. */
const dueMessages = `
  from outbox
  where incident_id is null and state <> 'queued' and created_at < $1::bigint - ${day}::bigint * ${eventDays}`;

/** Changes of state that belong to no incident, such as from indeterminate to clear. */
const dueChanges = `
  from state_changes
  where incident_id is null and at < $1::bigint - ${day}::bigint * ${eventDays}`;

/** What will have been due for removal at a moment, of what is there now; nothing is changed. @example await historyDue(db, after(now, week)) */
export async function historyDue(db: Queryable, at: Instant): Promise<HistoryRemoval> {
  const [events, incidents, messages] = await Promise.all(
    [dueEvents, dueIncidents, dueMessages].map(async (due) => {
      const [row] = await db.rows<{ count: number }>(`select count(*)::integer as count ${due}`, [at]);
      return row?.count ?? 0;
    })
  );
  return { events: events ?? 0, incidents: incidents ?? 0, messages: messages ?? 0 };
}

/** Rows that one statement removes, so that it stays short. */
const mostAtOnce = 1000;

/** Removes what is due, some at a time: events, and incidents with their changes of state and messages. Killed in between, the rest is removed the next time. */
export async function forgetHistory(db: Queryable, now: Instant): Promise<void> {
  const some = async (statement: string) => {
    for (let removed = mostAtOnce; removed === mostAtOnce;)
      removed = (await db.rows(`${statement} limit ${mostAtOnce}) returning 1`, [now])).length;
  };
  await some(`delete from events where (account_id, id) in (select events.account_id, events.id ${dueEvents}`);
  // An incident is removed last, so that nothing of it is left over when this is interrupted.
  await some(`delete from state_changes where id in (
    select state_changes.id from state_changes where incident_id in (select incidents.id ${dueIncidents})`);
  await some(
    `delete from outbox where id in (select outbox.id from outbox where incident_id in (select incidents.id ${dueIncidents})`
  );
  await some(`delete from incidents where id in (select incidents.id ${dueIncidents}`);
  await some(`delete from outbox where id in (select outbox.id ${dueMessages}`);
  await some(`delete from state_changes where id in (select state_changes.id ${dueChanges}`);
}

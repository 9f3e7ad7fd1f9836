// incidents: how they end
import { outcomeText, type Closing } from '$lib/core/incident';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { noteByPerson } from './events';
import { incidentById, type Incident } from './incidents';

/**
 * Notes how an incident ended. One that is still raised is over for people with it: nobody is notified of it any more, until it was clear and is raised anew, or becomes graver. What events raised is clear with it: the next event raises it anew.
 *
 * @throws Refusal `not-found`
 */
export async function closeIncident(
  { db, clock, changes }: Context,
  id: number,
  closing: Closing,
  by: string
): Promise<Incident> {
  const at = clock.now();
  const incident = await db.transaction(async (within) => {
    const isOver = (await required(within, id)).closedAt !== null;
    await setOutcome(within, id, closing, at, by);
    await noteByPerson(within, id, isOver ? 'outcome' : 'dismissed', at, by, outcomeText(closing));
    return required(within, id);
  });
  changes.tell('alarm', { alarmId: incident.alarmId });
  return incident;
}

/**
 * Opens an incident again that a person closed while it was raised, as long as it still is: its route has it as if it were new.
 *
 * @throws Refusal `not-found`, `incident-closed` for one that is clear
 */
export async function reopenIncident({ db, clock, changes }: Context, id: number, by: string): Promise<Incident> {
  const incident = await db.transaction(async (within) => {
    const known = await required(within, id);
    if (known.clearAt !== null)
      throw new Refusal(
        'incident-closed',
        'It is clear, so it cannot be opened again.',
        'It opens by itself when it is raised anew.'
      );
    if (known.closedAt !== null) {
      await clearOutcome(within, id);
      await noteByPerson(within, id, 'reopened', clock.now(), by);
    }
    return required(within, id);
  });
  changes.tell('alarm', { alarmId: incident.alarmId });
  return incident;
}

const setOutcome = (
  within: Queryable,
  id: number,
  { outcome, text }: Closing,
  at: Instant,
  by: string
): Promise<unknown> =>
  within.rows(
    `update incidents
     set outcome = $2, outcome_text = $3, outcome_at = $4, outcome_by = $5,
       closed_at = case when event_rule_id is null then closed_at else coalesce(closed_at, greatest($4, opened_at)) end,
       dismissed_severity = case when ended_at is null then severity else dismissed_severity end,
       dismissed_at = case when ended_at is null then greatest($4, opened_at) else dismissed_at end
     where id = $1`,
    [id, outcome, text, at, by]
  );

const clearOutcome = (within: Queryable, id: number): Promise<unknown> =>
  within.rows(
    `update incidents
     set outcome = null, outcome_text = '', outcome_at = null, outcome_by = null, dismissed_at = null, dismissed_severity = null,
       acknowledged_at = null, acknowledged_by = null
     where id = $1`,
    [id]
  );

async function required(within: Queryable, id: number): Promise<Incident> {
  // Locked: what two people say at once is written one after the other.
  await within.rows('select id from incidents where id = $1 for update', [id]);
  const incident = await incidentById(within, id);
  if (incident === null)
    throw new Refusal('not-found', 'There is no such incident.', 'It may be older than incidents are stored.');
  return incident;
}

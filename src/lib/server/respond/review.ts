import { outcomeText, reviewText } from '$lib/core/incident';
import type { Clock } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import type { Incident } from '../incidents/incidents';
import { messagesOfIncident } from '../notify/outbox-lists';
import { timelineOf } from './timeline';

/** The summary of an incident for a review, as CommonMark. */
export async function reviewOf(
  { db, clock }: { readonly db: Queryable; readonly clock: Clock },
  incident: Incident,
  zone: string
): Promise<string> {
  const [timeline, messages] = await Promise.all([timelineOf(db, incident), messagesOfIncident(db, incident.id)]);
  const sent = messages.flatMap(({ sentAt }) => (sentAt === null ? [] : [sentAt])).sort((a, b) => a - b);
  const ending = incident.outcome === null ? null : { text: outcomeText(incident.outcome), by: incident.outcome.by };
  return reviewText({ ...incident, ending, notifiedAt: sent[0] ?? null, timeline }, zone, clock.now());
}

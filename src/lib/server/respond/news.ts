import { severityBalls } from '$lib/core/alarm';
import type { ThreadEvent } from '$lib/core/notify/route';
import { before, hour, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { eventsOfIncident, type IncidentEvent } from '../incidents/events';
import type { Incident } from '../incidents/incidents';

/** An incident that was over longer ago when it became known is recorded, and nobody is notified of it. */
const latestNews = hour;

/** What an event is to a thread; null for what nobody has to hear of. */
export async function newsOf(
  within: Queryable,
  { id: incidentId, clearAt, closedAt }: Incident,
  event: IncidentEvent
): Promise<ThreadEvent['kind'] | null> {
  /** Whether a person closed it before it was clear. */
  const isDismissed = closedAt !== null && (clearAt === null || closedAt < clearAt);
  switch (event.kind) {
    case 'closed':
      return isDismissed ? null : 'closed';
    case 'opened':
    case 'ended':
    case 'acknowledged':
    case 'unacknowledged':
      return event.kind;
    case 'rerouted':
    case 'unshelved':
    case 'reopened':
      return 'opened';
    case 'dismissed':
      return 'closed';
    case 'shelved':
      return 'ended';
    case 'severity':
      return isDismissed || (await isMilder(within, incidentId, event)) ? null : 'graver';
    case 'unjudged':
    case 'unreached':
    case 'outcome':
      return null;
    default:
      throw new RangeError(`newsOf: no event "${String(event.kind satisfies never)}"`);
  }
}

/** Whether an incident became known only when it had been over for long. */
export function wasOverLongAgo(events: readonly IncidentEvent[], now: Instant): boolean {
  const opened = events.some(({ kind }) => kind === 'opened');
  const closed = events.find(({ kind }) => kind === 'closed');
  return opened && closed !== undefined && closed.at < before(now, latestNews);
}

/** Whether an incident became milder by an event: of severities, only a graver one is news. */
async function isMilder(within: Queryable, incidentId: number, event: IncidentEvent): Promise<boolean> {
  const before = (await eventsOfIncident(within, incidentId))
    .filter(({ id, severity }) => id < event.id && severity !== null)
    .at(-1);
  if (!before?.severity || !event.severity) return false;
  return severityBalls(event.severity) <= severityBalls(before.severity);
}

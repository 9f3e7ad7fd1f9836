import type { Line } from '$lib/core/logs';
import type { Severity } from '$lib/core/alarm';
import { after, before, minute, range, times, type Instant } from '$lib/core/time';
import { incidentsIn } from './span';
import { eventsIn } from '../intake/events/events';
import { marksIn } from '../marks/marks';
import type { Queryable } from '../db/pool';
import type { Stream } from '../logs/streams';

/** What happened at about the time of a line. */
export interface NearLine {
  readonly at: Instant;
  readonly kind: 'incident' | 'mark' | 'event';
  readonly text: string;
  readonly severity: Severity | null;
  /** Of an incident. */
  readonly incidentId: number | null;
}

/** How long before and after a line it is looked, and how much is said. */
const around = times(15, minute);
const most = 8;

/** Incidents that began or went on at about the time of a line, marks, and events of its account; the nearest first. Those of its resource come before the others. */
export async function nearLine(
  db: Queryable,
  { at, resourceId }: Pick<Line, 'at' | 'resourceId'>,
  { account, service }: Stream
): Promise<NearLine[]> {
  const within = range(before(at, around), after(at, around));
  const [incidents, marks, events] = await Promise.all([
    incidentsIn(db, within, 200),
    marksIn(db, within),
    eventsIn(db, within.from, within.to)
  ]);
  const found: (NearLine & { readonly isOwn: boolean })[] = [
    ...incidents
      .filter((one) => one.account === '' || one.account === account)
      .map((one) => ({
        ...{
          at: one.openedAt,
          kind: 'incident' as const,
          text: `${one.alarm}: ${one.subject}`,
          severity: one.severity
        },
        incidentId: one.id,
        isOwn: resourceId !== null && one.resourceId === resourceId
      })),
    ...marks
      .filter((one) => one.board === null && (one.service === null || one.service === service))
      .map((one) => ({ ...plain, at: one.from, kind: 'mark' as const, text: one.text, isOwn: false })),
    ...events
      .filter((one) => one.account === account)
      .map((one) => ({
        ...{ ...plain, at: one.at, kind: 'event' as const, text: one.text },
        isOwn: resourceId !== null && one.resourceId === resourceId
      }))
  ];
  return found
    .sort((a, b) => Number(b.isOwn) - Number(a.isOwn) || Math.abs(a.at - at) - Math.abs(b.at - at))
    .slice(0, most)
    .map(({ isOwn: _own, ...near }) => near);
}

const plain = { severity: null, incidentId: null };

import { eventOrigins, type EventOrigin, type ListedEvent, type OutsideEvent } from '$lib/core/events';
import { serviceByKey } from '$lib/core/services';
import type { Queryable } from '../db/pool';
import { ownProvider } from '../inventory/accounts';
import { incidentsIn } from '../incidents/span';
import { marksIn } from '../marks/marks';
import { listEvents, type EventFilter } from './outside-events';

/** Which events are listed; what is null holds for all. */
export interface AllFilter extends EventFilter {
  readonly origin: EventOrigin | null;
}

/** Events of everybody in one list, and by origin how many there are in each cell of a strip. */
export interface AllEvents {
  readonly events: readonly ListedEvent[];
  /** Whether there are more than are listed. */
  readonly isCut: boolean;
  readonly counts: readonly { readonly origin: EventOrigin; readonly cells: readonly number[] }[];
}

/** Events of each origin that are looked at. */
const mostOfOrigin = 2000;
const mostListed = 500;

/** Everything that happened in a range: at providers, as programs say it, what Bussola raised and cleared, and marks. */
export async function allEvents(db: Queryable, filter: AllFilter, step: number, cells: number): Promise<AllEvents> {
  const { range, origin } = filter;
  const wants = (one: EventOrigin): boolean => origin === null || origin === one;
  const [outside, incidents, marks] = await Promise.all([
    wants('provider') || wants('program') || wants('bussola') ? listEvents(db, filter, mostOfOrigin) : [],
    wants('bussola') ? incidentsIn(db, range, mostOfOrigin) : [],
    wants('mark') ? marksIn(db, range) : []
  ]);
  const own = incidents.flatMap(
    ({ id, subject, alarm, severity, openedAt, closedAt, resource, resourceId, account }) => {
      const known = {
        ...{ key: null, origin: 'bussola' as const, source: 'Bussola', text: `${subject}: ${alarm}` },
        ...{ resource, resourceId, account, incidentId: id }
      };
      const raised: ListedEvent = { ...known, at: openedAt, type: 'incident raised', severity };
      return closedAt === null ? [raised] : [raised, { ...known, at: closedAt, type: 'incident over', severity: null }];
    }
  );
  const put = marks.map(({ from, text, by, service }): ListedEvent => ({
    ...{
      key: null,
      origin: 'mark',
      at: from,
      type: 'mark',
      source: by,
      text,
      resource: service === null ? '' : serviceByKey(service).title
    },
    ...{ resourceId: null, account: '', severity: null, incidentId: null }
  }));
  const all = [
    ...outside.map(listed).filter((one) => wants(one.origin)),
    ...[...own, ...put].filter(passing(filter))
  ].sort((a, b) => b.at - a.at);
  const counts = eventOrigins.filter(wants).map((one) => ({ origin: one, cells: Array<number>(cells).fill(0) }));
  for (const { at, origin: of } of all) {
    const bar = counts.find((one) => one.origin === of)?.cells;
    const cell = Math.floor((at - range.from) / step);
    if (bar !== undefined && cell >= 0 && cell < cells) bar[cell] = (bar[cell] ?? 0) + 1;
  }
  return {
    events: all.slice(0, mostListed),
    isCut: all.length > mostListed || outside.length === mostOfOrigin || incidents.length === mostOfOrigin,
    counts
  };
}

const listed = ({
  accountId,
  id,
  at,
  type,
  source,
  text,
  resource,
  resourceId,
  account,
  isSent
}: OutsideEvent): ListedEvent => ({
  ...{
    key: `${accountId}.${id}`,
    origin: isSent ? ('program' as const) : source === ownProvider ? ('bussola' as const) : ('provider' as const),
    at,
    type,
    source: source === ownProvider ? 'Bussola' : source,
    text
  },
  ...{ resource, resourceId, account, severity: null, incidentId: null }
});

/** The filter of what is not read by it. */
const passing =
  ({ range, text, type, account, resourceId }: EventFilter) =>
  (one: ListedEvent): boolean => {
    const words = [one.type, one.text, one.source, one.resource, one.account].join(' ').toLowerCase();
    return (
      one.at >= range.from &&
      one.at < range.to &&
      (text === null || words.includes(text.toLowerCase())) &&
      (type === null || one.type === type) &&
      (account === null || one.account === account) &&
      (resourceId === null || one.resourceId === resourceId)
    );
  };

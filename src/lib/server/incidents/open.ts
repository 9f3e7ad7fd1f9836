// incidents that are open
import type { Severity } from '$lib/core/alarm';
import type { Queryable } from '../db/pool';
import { incidentRows, withSubject, type Incident } from './incidents';
import { graverIsMore } from './severity-order';

/** The order in which open incidents are looked at: those that nobody looks after and that are not shelved first, of these the gravest, of these the oldest. */
const gravestFirst = `acknowledged_at is not null or shelving_id is not null, ${graverIsMore('incidents.severity')} desc, opened_at, incidents.id`;

/** The same order, of rows as {@link incidentRows} gives them. */
export const gravestListedFirst = `("acknowledgedAt" is not null or "shelvingId" is not null), ${graverIsMore('severity')} desc, "openedAt", id`;

/** The same order, by what grows. */
const openOrder = `acknowledged_at is not null or shelving_id is not null, -(${graverIsMore('incidents.severity')}), opened_at, incidents.id`;

/** Open incidents that stand behind one of them, or that stood behind it before it ended, in the order of {@link openIncidents}. */
export async function openIncidentsAfter(db: Queryable, most: number, id: number): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `${incidentRows}
     where incidents.id in (
       select id from incidents
       where ended_at is null and (${openOrder}) > (select ${openOrder} from incidents where id = $2::bigint)
       order by ${gravestFirst} limit $1)
     order by ${gravestFirst}`,
    [most, id]
  );
  return rows.map(withSubject);
}

/** Incidents that are open, however old: those that nobody looks after first, of these the gravest. */
export async function openIncidents(db: Queryable, most: number, after = 0): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    // Those that are wanted are found before they are joined: of a storm, a few of thousands.
    `${incidentRows}
     where incidents.id in (select id from incidents where ended_at is null order by ${gravestFirst} limit $1 offset $2)
     order by ${gravestFirst}`,
    [most, after]
  );
  return rows.map(withSubject);
}

/** How many incidents of a severity are open on a service. */
export interface ServiceCount {
  readonly service: string;
  readonly severity: Severity;
  readonly count: number;
}

/** How many incidents of each severity are open on each service; all of them. */
export const countOpenByService = (db: Queryable): Promise<ServiceCount[]> =>
  db.rows(
    `select service, severity, count(*)::integer as count
     from (${incidentRows} where incidents.ended_at is null) as open
     group by service, severity`
  );

/** How many incidents of each severity are open on each resource; all of them. */
export interface OpenCount {
  readonly service: string;
  readonly account: string;
  readonly resource: string;
  readonly severity: Severity;
  readonly count: number;
}

export const countOpen = (db: Queryable): Promise<OpenCount[]> =>
  db.rows<OpenCount>(
    `select service, account, resource, severity, count(*)::integer as count
     from (${incidentRows} where incidents.ended_at is null) as open
     group by service, account, resource, severity`
  );

// incidents, as people list them
import type { Severity } from '$lib/core/alarm';
import { groupRelated, type Relatable, type Relation } from '$lib/core/incident';
import type { Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import { incidentRows, incidentsInOrder, withSubject, type Incident } from './incidents';
import { mostKnown, type OpenNowReader } from './open-now';
import { gravestListedFirst } from './open';

/** Whether somebody looks after an incident. */
export const attentions = ['nobody', 'somebody', 'shelved'] as const;
export type Attention = (typeof attentions)[number];

/** Which incidents are listed; what is null holds for all. */
export interface IncidentFilter {
  readonly severity: Severity | null;
  readonly service: string | null;
  readonly account: string | null;
  readonly attention: Attention | null;
  /** A part of what it is on or of the name of its alarm, in any letter case. */
  readonly text: string | null;
}

const matches = `($1::text is null or severity = $1)
  and ($2::text is null or service = $2)
  and ($3::text is null or account = $3)
  and case $4::text
    when 'nobody' then "acknowledgedAt" is null and "shelvingId" is null
    when 'somebody' then "acknowledgedAt" is not null
    when 'shelved' then "shelvingId" is not null
    else true
  end
  and ($5::text is null or position(lower($5) in lower(alarm || ' ' || resource || ' ' || labels::text)) > 0)`;

const valuesOf = ({ severity, service, account, attention, text }: IncidentFilter): (string | null)[] => [
  severity,
  service,
  account,
  attention,
  text
];

/** Incidents that belong together, as a page of a list shows them. */
export interface ListedGroup {
  readonly incidents: readonly Incident[];
  /** Why they belong together; none for one that stands alone. */
  readonly why: readonly Relation[];
  /** How many there are in it, on whichever pages. */
  readonly size: number;
}

/**
 * Open incidents that a filter takes: those that nobody looks after first, of these the gravest, of these the oldest; those that belong together stand with the first of them. Beyond {@link mostKnown}
 * those that belong together are not looked for.
 *
 * @param darkAccounts names of those that send nothing
 */
export async function listOpen(
  { db, openNow }: { readonly db: Queryable; readonly openNow: OpenNowReader },
  filter: IncidentFilter,
  most: number,
  after: number,
  darkAccounts: ReadonlySet<string> | Promise<ReadonlySet<string>> = new Set()
): Promise<{ readonly groups: readonly ListedGroup[]; readonly count: number }> {
  const values = valuesOf(filter);
  const mostRead = Math.max(mostKnown, after + most);
  const isAll = values.every((value) => value === null) && mostRead === mostKnown;
  const [dark, rows] = await Promise.all([
    darkAccounts,
    isAll ? openNow.read().then(({ incidents }) => incidents) : openOf(db, values, mostRead)
  ]);
  const count = rows.length < mostRead ? rows.length : await countOf(db, values);
  const groups = groupRelated(rows, dark);
  const shown = groups.flatMap((group) => group.incidents.map(({ id }) => ({ id, group }))).slice(after, after + most);
  const byId = new Map((await incidentsInOrder(db, shown)).map((incident) => [incident.id, incident]));
  const onPage = [...new Set(shown.map(({ group }) => group))].map((group) => ({
    why: group.why,
    size: group.incidents.length,
    incidents: shown.flatMap((one) => (one.group === group ? (byId.get(one.id) ?? []) : []))
  }));
  return { groups: onPage.filter(({ incidents }) => incidents.length > 0), count };
}

const listed = `from (${incidentRows} where incidents.ended_at is null) as listed where ${matches}`;

const openOf = (db: Queryable, values: readonly (string | null)[], most: number): Promise<Relatable[]> =>
  db.rows(
    `select id, account, resource, "openedAt" ${listed}
     order by ${gravestListedFirst}
     limit $6`,
    [...values, most]
  );

const countOf = async (db: Queryable, values: readonly (string | null)[]): Promise<number> =>
  oneRow(await db.rows<{ count: number }>(`select count(*)::integer as count ${listed}`, values)).count;

/** Incidents that a filter takes, that are clear and were open at any moment of a range, newest first. */
export async function listClosed(
  db: Queryable,
  filter: IncidentFilter,
  { from, to }: Range,
  most: number
): Promise<Incident[]> {
  const rows = await db.rows<Omit<Incident, 'subject'>>(
    `select *
     from (${incidentRows} where opened_at < $7 and incidents.ended_at >= $6) as listed
     where ${matches}
     order by "openedAt" desc, id desc
     limit $8`,
    [...valuesOf(filter), from, to, most]
  );
  return rows.map(withSubject);
}

// incidents, as people list them
import type { Severity } from '$lib/core/alarm';
import { groupRelated, type Relatable, type Relation } from '$lib/core/incident';
import type { Range } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import { incidentRows, incidentsByIds, withSubject, type Incident } from './incidents';
import { graverIsMore } from './severity-order';

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

/** Open incidents among which related ones are looked for; the rest follow without. */
const mostRelated = 5000;

/**
 * Open incidents that a filter takes: those that nobody looks after first, of these the gravest, of these the oldest; those that belong together stand with the first of them.
 *
 * @param darkAccounts names of those that send nothing
 */
export async function listOpen(
  db: Queryable,
  filter: IncidentFilter,
  most: number,
  after: number,
  darkAccounts: ReadonlySet<string> | Promise<ReadonlySet<string>> = new Set()
): Promise<{ readonly groups: readonly ListedGroup[]; readonly count: number }> {
  const listed = `from (${incidentRows} where incidents.ended_at is null) as listed where ${matches}`;
  const mostRead = Math.max(mostRelated, after + most);
  const [dark, rows] = await Promise.all([
    darkAccounts,
    db.rows<Relatable>(
      `select id, account, resource, "openedAt" ${listed}
       order by ("acknowledgedAt" is not null or "shelvingId" is not null), ${graverIsMore('severity')} desc, "openedAt", id
       limit $6`,
      [...valuesOf(filter), mostRead]
    )
  ]);
  const counted =
    rows.length < mostRead
      ? rows.length
      : oneRow(await db.rows<{ count: number }>(`select count(*)::integer as count ${listed}`, valuesOf(filter))).count;
  const groups = groupRelated(rows, dark);
  const shown = groups.flatMap((group) => group.incidents.map(({ id }) => ({ id, group }))).slice(after, after + most);
  const byId = new Map(
    (
      await incidentsByIds(
        db,
        shown.map(({ id }) => id)
      )
    ).map((incident) => [incident.id, incident])
  );
  const onPage = [...new Set(shown.map(({ group }) => group))].map((group) => ({
    why: group.why,
    size: group.incidents.length,
    incidents: shown.flatMap((one) => (one.group === group ? (byId.get(one.id) ?? []) : []))
  }));
  return { groups: onPage.filter(({ incidents }) => incidents.length > 0), count: counted };
}

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

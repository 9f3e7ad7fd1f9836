// events
import type { ArrivedEvent, EventNames, OutsideEvent } from '$lib/core/events';
import type { Instant, Range } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Events with where they are from; a condition follows. */
const eventRows = `
  select events.id, events.account_id as "accountId", place.id as "placeId", place.name as account, events.at, events.kind as type,
    case when events.source = '' then accounts.provider else events.source end as source, events.source <> '' as "isSent", events.text,
    resources.id as "resourceId", coalesce(resources.name, events.about) as resource, coalesce(resources.service, '') as service,
    coalesce(resources.region, '') as region, events.subject as attributes
  from events
  join accounts on accounts.id = events.account_id
  left join resources on resources.id = events.resource_id
  join accounts as place on place.id = coalesce(resources.account_id, events.account_id)`;

/** Events that the rules have not seen, the oldest first; locked until the transaction ends. */
export const unjudgedEvents = (within: Queryable, most: number): Promise<OutsideEvent[]> =>
  within.rows(
    `${eventRows} where events.judged_at is null order by events.at, events.account_id, events.id limit $1 for update of events skip locked`,
    [most]
  );

/** Whether there are events that the rules have not seen. */
export const hasUnjudged = async (db: Queryable): Promise<boolean> =>
  (await db.rows('select 1 from events where judged_at is null limit 1')).length > 0;

export async function markJudged(within: Queryable, events: readonly OutsideEvent[], at: Instant): Promise<void> {
  await within.rows(
    `update events set judged_at = $3
     from unnest($1::integer[], $2::integer[]) as judged (account_id, id)
     where events.account_id = judged.account_id and events.id = judged.id`,
    [events.map(({ accountId }) => accountId), events.map(({ id }) => id), at]
  );
}

/** Events of an account about the same thing as one of them, from that moment on, in order. */
export const laterOnSame = (
  db: Queryable,
  { accountId, id, at }: OutsideEvent,
  most: number
): Promise<OutsideEvent[]> =>
  db.rows(
    `${eventRows}
     join events as first on first.account_id = $1 and first.id = $2
     where events.account_id = $1 and events.at >= $3 and events.resource_id is not distinct from first.resource_id
       and events.about = first.about and (events.resource_id is not null or events.about <> '' or events.source = first.source)
     order by events.at, events.id
     limit $4`,
    [accountId, id, at, most]
  );

/** Which events are listed; what is null holds for all. */
export interface EventFilter {
  readonly range: Range;
  /** A part of what it says, of its type, its source, or of what it is about, in any letter case. */
  readonly text: string | null;
  readonly type: string | null;
  readonly account: string | null;
  readonly resourceId: number | null;
}

const filtered = `
  where events.at >= $1 and events.at < $2
    and ($3::text is null or position(lower($3) in lower(concat_ws(' ', events.kind, events.text, events.source, events.about, resources.name, place.name))) > 0)
    and ($4::text is null or events.kind = $4)
    and ($5::text is null or place.name = $5)
    and ($6::integer is null or resources.id = $6)`;
const valuesOf = ({ range: { from, to }, text, type, account, resourceId }: EventFilter) => [
  from,
  to,
  text,
  type,
  account,
  resourceId
];

/** Events, the newest first. @param after of which one only those behind it are listed: its time and id */
export const listEvents = (
  db: Queryable,
  filter: EventFilter,
  most: number,
  after: readonly [at: number, id: number] | null = null
): Promise<OutsideEvent[]> =>
  db.rows(
    `${eventRows} ${filtered} and ($8::bigint is null or (events.at, events.id) < ($8, $9::bigint))
     order by events.at desc, events.id desc limit $7`,
    [...valuesOf(filter), most, after?.[0] ?? null, after?.[1] ?? null]
  );

/** Past events of a range, the oldest first, as rules are tried on them; the newest where there are too many. */
export const pastEvents = async (db: Queryable, range: Range, most: number): Promise<OutsideEvent[]> =>
  (await listEvents(db, { range, text: null, type: null, account: null, resourceId: null }, most)).toReversed();

export async function eventById(db: Queryable, accountId: number, id: number): Promise<OutsideEvent | null> {
  const [event] = await db.rows<OutsideEvent>(`${eventRows} where events.account_id = $1 and events.id = $2`, [
    accountId,
    id
  ]);
  return event ?? null;
}

/**
 * Stores events that a program sent, each once, with the resource that has the name of what it is about: of its own account, or else the only one of all accounts.
 *
 * @returns how many are new
 */
export async function saveArrivedEvents(
  within: Queryable,
  accountId: number,
  events: readonly ArrivedEvent[]
): Promise<number> {
  const rows = await within.rows(
    `insert into events (account_id, provider_id, resource_id, at, kind, text, subject, source, about)
     select $1, arrived.provider_id,
       coalesce(
         (select min(id) from resources where account_id = $1 and name = arrived.about and ended_at is null),
         (select min(id) from resources where name = arrived.about and ended_at is null having count(*) = 1)),
       arrived.at, arrived.kind, arrived.text, arrived.subject::jsonb, arrived.source, arrived.about
     from unnest($2::text[], $3::bigint[], $4::text[], $5::text[], $6::text[], $7::text[], $8::text[])
       as arrived (provider_id, at, kind, text, subject, source, about)
     on conflict (account_id, provider_id) do nothing
     returning id`,
    [
      accountId,
      // An id is one of its source alone; a source has no line break.
      events.map(({ id, source }) => `${source.replaceAll('\n', ' ')}\n${id}`),
      events.map(({ at }) => at),
      events.map(({ type }) => type),
      events.map(({ text }) => text),
      events.map(({ attributes }) => JSON.stringify(attributes)),
      events.map(({ source }) => source),
      events.map(({ subject }) => subject)
    ]
  );
  return rows.length;
}

/** An event that acted on an incident. */
export interface ActingEvent extends OutsideEvent {
  readonly effect: 'raises' | 'again' | 'clears';
}

/** The events that raised an incident and cleared it, the newest first. */
export const eventsBehind = (db: Queryable, incidentId: number, most: number): Promise<ActingEvent[]> =>
  db.rows(
    `select rows.*, effect
     from (${eventRows}) as rows
     join event_effects on event_effects.account_id = rows."accountId" and event_effects.event_id = rows.id
     where event_effects.incident_id = $1
     order by rows.at desc, rows.id desc
     limit $2`,
    [incidentId, most]
  );

/** Names that there are, to choose from: of the newest events. */
export async function eventNames(db: Queryable): Promise<EventNames> {
  const newest = await db.rows<OutsideEvent>(`${eventRows} order by events.at desc limit 1000`);
  const sorted = (names: readonly string[]): string[] => [...new Set(names)].filter((name) => name !== '').sort();
  return {
    types: sorted(newest.map(({ type }) => type)),
    sources: sorted(newest.flatMap(({ source, account }) => [source, account])),
    resources: sorted(newest.map(({ resource }) => resource)),
    attributes: sorted(newest.flatMap(({ attributes }) => Object.keys(attributes)))
  };
}

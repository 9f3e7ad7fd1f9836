// calendar_links
import { createHash, randomBytes } from 'node:crypto';
import { calendarText, shiftsIn, type CalendarEntry } from '$lib/core/rota';
import { after, before, day, times, type Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';
import { allPeople } from '../people/people';
import { allRotas, overridesIn, type Written } from './rotas';

/** What a calendar has: a rota, or the shifts of a person. */
export interface CalendarOf {
  readonly rotaId: number | null;
  readonly personId: number | null;
}

export interface CalendarLink extends CalendarOf {
  readonly id: number;
  readonly createdAt: Instant;
  readonly createdBy: string;
  /** When a program last read it; null before. */
  readonly readAt: Instant | null;
}

const hashOf = (token: string): Buffer => createHash('sha256').update(token).digest();

/** Makes a secret address of a calendar. @returns what stands in the address, shown once */
export async function makeCalendarLink(
  db: Queryable,
  { rotaId, personId }: CalendarOf,
  { at, by }: Written
): Promise<string> {
  const token = randomBytes(24).toString('base64url');
  await db.rows(
    'insert into calendar_links (token_hash, rota_id, person_id, created_at, created_by) values ($1, $2, $3, $4, $5)',
    [hashOf(token), rotaId, personId, at, by]
  );
  return token;
}

export const calendarLinks = (db: Queryable): Promise<CalendarLink[]> =>
  db.rows(
    `select id, rota_id as "rotaId", person_id as "personId", created_at as "createdAt", created_by as "createdBy", read_at as "readAt"
     from calendar_links
     order by id`
  );

/** @returns whether there was one */
export async function removeCalendarLink(db: Queryable, id: number): Promise<boolean> {
  return (await db.rows('delete from calendar_links where id = $1 returning id', [id])).length > 0;
}

/** How far calendars reach back and ahead. */
const [daysBack, daysAhead] = [30, 120];

/** The calendar of a secret address as iCalendar; null when there is none, or no more. */
export async function calendarByToken(db: Queryable, token: string, now: Instant): Promise<string | null> {
  const rows = await db.rows<CalendarOf>(
    `update calendar_links set read_at = $2 where token_hash = $1 returning rota_id as "rotaId", person_id as "personId"`,
    [hashOf(token), now]
  );
  return rows[0] ? calendarFor(db, rows[0], now) : null;
}

/** A calendar as iCalendar: the shifts of a rota with whoever has each, or those of a person. */
export async function calendarFor(db: Queryable, { rotaId, personId }: CalendarOf, now: Instant): Promise<string> {
  const within = { from: before(now, times(daysBack, day)), to: after(now, times(daysAhead, day)) };
  const [rotas, overrides, people] = await Promise.all([allRotas(db), overridesIn(db, within), allPeople(db)]);
  const nameOf = (id: number) => people.find((person) => person.id === id)?.displayName ?? 'somebody';
  const chosen = rotas.filter(({ id }) => rotaId === null || id === rotaId);
  const entries = chosen.flatMap(({ id, rota }) =>
    shiftsIn(
      rota,
      overrides.filter((one) => one.rotaId === id),
      within
    ).flatMap((shift): CalendarEntry[] => {
      if (shift.personId === null || (personId !== null && shift.personId !== personId)) return [];
      return [
        {
          ...{ from: shift.from, to: shift.to, uid: `rota-${id}-${shift.from}-${shift.personId}@bussola` },
          summary: personId === null ? `${rota.name}: ${nameOf(shift.personId)}` : `On call: ${rota.name}`
        }
      ];
    })
  );
  const name = personId === null ? (chosen[0]?.rota.name ?? 'Rota') : `On call, ${nameOf(personId)}`;
  return calendarText(name, entries, now);
}

/** Addresses that one workspace may have. */
export const mostLinks = 500;
export const countLinks = async (db: Queryable): Promise<number> =>
  oneRow(await db.rows<{ count: number }>('select count(*)::integer as count from calendar_links')).count;

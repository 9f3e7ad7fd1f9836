// incident_notes
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import { oneRow, type Queryable } from '../db/pool';
import { incidentById } from './incidents';

export interface IncidentNote {
  readonly id: number;
  readonly at: Instant;
  readonly by: string;
  /** CommonMark. */
  readonly text: string;
}

/** Notes that an incident may have. */
const mostNotes = 500;

export const notesOf = (db: Queryable, incidentId: number): Promise<IncidentNote[]> =>
  db.rows('select id, at, by, text from incident_notes where incident_id = $1 order by at, id', [incidentId]);

/** Writes a note about an incident. @throws Refusal `not-found`, `invalid` when it has too many */
export async function addNote(
  { db, clock, changes }: Context,
  incidentId: number,
  text: string,
  by: string
): Promise<IncidentNote> {
  const incident = await incidentById(db, incidentId);
  if (incident === null)
    throw new Refusal('not-found', 'There is no such incident.', 'It may be older than incidents are stored.');
  if ((await notesOf(db, incidentId)).length >= mostNotes)
    throw new Refusal('invalid', `There are ${mostNotes} notes, which is the most.`, 'Write the rest elsewhere.');
  const note = oneRow(
    await db.rows<IncidentNote>(
      'insert into incident_notes (incident_id, at, by, text) values ($1, $2, $3, $4) returning id, at, by, text',
      [incidentId, clock.now(), by, text]
    )
  );
  changes.tell('alarm', { alarmId: incident.alarmId });
  return note;
}

// incident_pictures
import { Refusal } from '$lib/core/problem/problem';
import type { Context } from '../db/context';
import { oneRow, type Queryable } from '../db/pool';
import type { Pictures } from '../notify/pictures/pictures';
import { incidentById } from './incidents';

/** A picture that notes of an incident may show as `![what is seen](picture:3)`. */
export interface StoredPicture {
  readonly id: number;
  readonly width: number;
  readonly height: number;
}

/** Pictures that the notes of an incident may have. */
const mostPictures = 50;

/**
 * Stores a picture for the notes of an incident: what was uploaded is drawn anew in a thread of its own, at most 1600 pixels wide or high.
 *
 * @throws Refusal `not-found`, `invalid` for what is no picture, is damaged or too large, or one too many, `too-large` for what takes too long to draw
 */
export async function addPicture(
  { db, clock, drawn }: Context & { readonly drawn: Pictures },
  incidentId: number,
  bytes: Uint8Array,
  by: string
): Promise<StoredPicture> {
  if ((await incidentById(db, incidentId)) === null)
    throw new Refusal('not-found', 'There is no such incident.', 'It may be older than incidents are stored.');
  const { count } = oneRow(
    await db.rows<{ count: number }>(
      'select count(*)::integer as count from incident_pictures where incident_id = $1',
      [incidentId]
    )
  );
  if (count >= mostPictures)
    throw new Refusal('invalid', `There are ${mostPictures} pictures, which is the most.`, 'Describe what is seen.');
  const picture = await drawn.redraw(bytes);
  if (picture.kind === 'refused')
    throw new Refusal('invalid', picture.why, 'Use another picture, such as a screenshot as PNG.', { path: ['data'] });
  const { width, height, image } = picture;
  return oneRow(
    await db.rows<StoredPicture>(
      `insert into incident_pictures (incident_id, at, by, width, height, image)
       values ($1, $2, $3, $4, $5, $6)
       returning id, width, height`,
      [incidentId, clock.now(), by, width, height, Buffer.from(image)]
    )
  );
}

/** The WebP of a picture of an incident; null when there is none. */
export async function pictureOf(db: Queryable, incidentId: number, id: number): Promise<Buffer | null> {
  const [row] = await db.rows<{ image: Buffer }>(
    'select image from incident_pictures where incident_id = $1 and id = $2',
    [incidentId, id]
  );
  return row?.image ?? null;
}

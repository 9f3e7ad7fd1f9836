// responses
import { responseForm, type AutoResponse } from '$lib/core/response';
import { readableOf, readStored, unreadableOf, writeStored } from '$lib/core/forms/stored';
import type { Problem } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import { oneRow, type Queryable } from '../db/pool';

export interface StoredResponse {
  readonly id: number;
  readonly response: AutoResponse;
  /** Rises with each change. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** In whose right it acts; null for nobody, as when they are gone. */
  readonly personId: number | null;
  /** When it stopped itself, and why; null while it acts. */
  readonly stoppedAt: Instant | null;
  readonly stoppedWhy: string | null;
}

/** Whoever changes one. */
export interface ResponseAuthor {
  readonly at: Instant;
  readonly by: string;
  readonly personId: number;
}

const columns = `id, definition, version, changed_at as "changedAt", changed_by as "changedBy", person_id as "personId", stopped_at as "stoppedAt",
  stopped_why as "stoppedWhy"`;
type Row = Omit<StoredResponse, 'response'> & { readonly definition: unknown };
const fromRow = ({ definition, ...rest }: Row): StoredResponse => ({
  ...rest,
  response: readStored(responseForm, definition, `${rest.id}`)
});
const allRows = (db: Queryable): Promise<Row[]> =>
  db.rows<Row>(`select ${columns} from responses order by lower(definition ->> 'name'), id`);

/** Every response that can be read, by name. */
export const allResponses = async (db: Queryable): Promise<StoredResponse[]> => readableOf(await allRows(db), fromRow);

/** Why some responses cannot be read. */
export const unreadableResponses = async (db: Queryable): Promise<Problem[]> =>
  unreadableOf(await allRows(db), fromRow);

/** @returns null when there is none */
export async function responseById(db: Queryable, id: number): Promise<StoredResponse | null> {
  const [row] = await db.rows<Row>(`select ${columns} from responses where id = $1`, [id]);
  return row ? fromRow(row) : null;
}

export const insertResponse = async (
  db: Queryable,
  response: AutoResponse,
  { at, by, personId }: ResponseAuthor
): Promise<StoredResponse> =>
  fromRow(
    oneRow(
      await db.rows<Row>(
        `insert into responses (definition, changed_at, changed_by, person_id) values ($1, $2, $3, $4) returning ${columns}`,
        [writeStored(responseForm, response), at, by, personId]
      )
    )
  );

/** Changes a response; one that had stopped itself acts again. @returns null when it is not of that version any more, or gone */
export async function replaceResponse(
  db: Queryable,
  id: number,
  version: number,
  response: AutoResponse,
  { at, by, personId }: ResponseAuthor
): Promise<StoredResponse | null> {
  const [row] = await db.rows<Row>(
    `update responses
     set definition = $3, version = version + 1, changed_at = $4, changed_by = $5, person_id = $6, stopped_at = null, stopped_why = null
     where id = $1 and version = $2
     returning ${columns}`,
    [id, version, writeStored(responseForm, response), at, by, personId]
  );
  return row ? fromRow(row) : null;
}

/** @returns whether it was there */
export const deleteResponse = async (db: Queryable, id: number): Promise<boolean> =>
  (await db.rows('delete from responses where id = $1 returning id', [id])).length > 0;

/** Lets a response do nothing any more until somebody saves it. */
export async function stopResponse(db: Queryable, id: number, at: Instant, why: string): Promise<void> {
  await db.rows('update responses set stopped_at = $2, stopped_why = $3 where id = $1 and stopped_at is null', [
    id,
    at,
    why
  ]);
}

// connectors, connector_recordings
import type { ConnectorPart } from '$lib/core/connector';
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** A connector as it is listed. */
export interface ListedConnector {
  readonly id: number;
  readonly key: string;
  readonly name: string;
  readonly changedAt: Instant;
  readonly changedBy: string;
  /** Accounts that are read by it. */
  readonly accounts: number;
  readonly recordings: number;
}

/** A connector with its text. */
export interface StoredConnector {
  readonly id: number;
  readonly key: string;
  readonly name: string;
  readonly text: string;
  /** Counts its changes: whoever saves says which one they saw. */
  readonly version: number;
  readonly changedAt: Instant;
  readonly changedBy: string;
}

/** A recording as it is listed. */
export interface ListedRecording {
  readonly id: number;
  readonly name: string;
  readonly part: ConnectorPart;
  readonly madeAt: Instant;
  readonly madeBy: string;
}

const columns = 'id, key, name, text, version, changed_at as "changedAt", changed_by as "changedBy"';

export const listConnectors = (db: Queryable): Promise<ListedConnector[]> =>
  db.rows(
    `select id, key, name, changed_at as "changedAt", changed_by as "changedBy",
       (select count(*) from accounts where provider = connectors.key and removed_at is null)::integer as accounts,
       (select count(*) from connector_recordings where connector_id = connectors.id)::integer as recordings
     from connectors order by name`
  );

export const allConnectors = (db: Queryable): Promise<StoredConnector[]> =>
  db.rows(`select ${columns} from connectors order by id`);

/** Another text once any connector is another one. */
export async function stampOfConnectors(db: Queryable): Promise<string> {
  const [row] = await db.rows<{ stamp: string | null }>(
    `select string_agg(concat_ws(' ', key, id, version, changed_at), ',' order by key) as stamp from connectors`
  );
  return row?.stamp ?? 'none';
}

export async function connectorById(db: Queryable, id: number): Promise<StoredConnector | null> {
  const [found] = await db.rows<StoredConnector>(`select ${columns} from connectors where id = $1`, [id]);
  return found ?? null;
}

/** Whether a connector of a key is saved. */
export const connectorOfKey = async (db: Queryable, key: string): Promise<boolean> =>
  (await db.rows('select 1 from connectors where key = $1', [key])).length > 0;

/** @returns its id; null where another one has its key */
export async function insertConnector(
  db: Queryable,
  { key, name, text, changedAt, changedBy }: Omit<StoredConnector, 'id' | 'version'>
): Promise<number | null> {
  const [row] = await db.rows<{ id: number }>(
    `insert into connectors (key, name, text, changed_at, changed_by) values ($1, $2, $3, $4, $5)
     on conflict (key) do nothing returning id`,
    [key, name, text, changedAt, changedBy]
  );
  return row?.id ?? null;
}

/** @returns whether the version that was seen was the newest */
export async function updateConnector(
  db: Queryable,
  { id, version, name, text, changedAt, changedBy }: Omit<StoredConnector, 'key'>
): Promise<boolean> {
  const rows = await db.rows(
    `update connectors set name = $3, text = $4, changed_at = $5, changed_by = $6, version = version + 1
     where id = $1 and version = $2 returning id`,
    [id, version, name, text, changedAt, changedBy]
  );
  return rows.length > 0;
}

export const deleteConnector = (db: Queryable, id: number): Promise<unknown> =>
  db.rows('delete from connectors where id = $1', [id]);

/** Names of accounts that are read by a connector. */
export async function accountsOf(db: Queryable, key: string): Promise<string[]> {
  const rows = await db.rows<{ name: string }>(
    'select name from accounts where provider = $1 and removed_at is null order by name',
    [key]
  );
  return rows.map(({ name }) => name);
}

export const listRecordings = (db: Queryable, connectorId: number): Promise<ListedRecording[]> =>
  db.rows(
    `select id, name, part, made_at as "madeAt", made_by as "madeBy" from connector_recordings where connector_id = $1 order by name`,
    [connectorId]
  );

/** Recordings of a connector with all they have. */
export const allRecordings = (
  db: Queryable,
  connectorId: number
): Promise<(Pick<ListedRecording, 'id' | 'name' | 'part'> & { readonly recording: unknown })[]> =>
  db.rows('select id, name, part, recording from connector_recordings where connector_id = $1 order by name', [
    connectorId
  ]);

/** Saves a recording in the place of another one of its name. */
export async function saveRecording(
  db: Queryable,
  recording: {
    readonly connectorId: number;
    readonly name: string;
    readonly part: ConnectorPart;
    readonly recording: object;
    readonly madeAt: Instant;
    readonly madeBy: string;
  }
): Promise<number> {
  const [row] = await db.rows<{ id: number }>(
    `insert into connector_recordings (connector_id, name, part, recording, made_at, made_by) values ($1, $2, $3, $4, $5, $6)
     on conflict (connector_id, name) do update set part = excluded.part, recording = excluded.recording, made_at = excluded.made_at, made_by = excluded.made_by
     returning id`,
    [
      ...[recording.connectorId, recording.name, recording.part, JSON.stringify(recording.recording)],
      ...[recording.madeAt, recording.madeBy]
    ]
  );
  return (row as { id: number }).id;
}

export async function deleteRecording(db: Queryable, connectorId: number, id: number): Promise<boolean> {
  const rows = await db.rows('delete from connector_recordings where connector_id = $1 and id = $2 returning id', [
    connectorId,
    id
  ]);
  return rows.length > 0;
}

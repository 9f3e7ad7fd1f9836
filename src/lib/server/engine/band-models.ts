// band_models
import type { Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';

/** Stores the model of a series that is in force on a day; one that is stored already stays, since something may have been decided by it. */
export async function saveModel(
  db: Queryable,
  signal: string,
  key: string,
  at: Instant,
  model: Uint8Array
): Promise<void> {
  await db.rows('insert into band_models (signal, key, at, model) values ($1, $2, $3, $4) on conflict do nothing', [
    signal,
    key,
    at,
    Buffer.from(model)
  ]);
}

/** The stored models of a signal that are in force on a day, by the keys of its series. */
export async function modelsOf(db: Queryable, signal: string, at: Instant): Promise<ReadonlyMap<string, Uint8Array>> {
  const rows = await db.rows<{ key: string; model: Uint8Array }>(
    'select key, model from band_models where signal = $1 and at = $2',
    [signal, at]
  );
  return new Map(rows.map(({ key, model }) => [key, model]));
}

/** Forgets the models of days before a moment. */
export async function forgetModels(db: Queryable, before: Instant): Promise<void> {
  await db.rows('delete from band_models where at < $1', [before]);
}

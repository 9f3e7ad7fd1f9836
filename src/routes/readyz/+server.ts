import { json } from '@sveltejs/kit';
import { bussola } from '$server/running';

/** The database answers; `store` tells how much of the journal has been read. */
export const GET = async () => {
  const { db, store } = bussola();
  await db.rows('select 1 as one');
  return json({ ready: true, store: await store.samples.progress() });
};

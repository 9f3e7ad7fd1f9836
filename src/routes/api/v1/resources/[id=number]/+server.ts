import { error, json } from '@sveltejs/kit';
import { exemplarsOf } from '$server/inventory/exemplars';
import { resourceById } from '$server/inventory/resources';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** How many exemplars are told. */
const mostExemplars = 5;

/** One resource with its account, region, tags, when it was seen, and the newest exemplars of its series. */
export const GET: RequestHandler = async ({ params }) => {
  const { db } = bussola();
  const id = Number(params.id);
  const resource = await resourceById(db, id);
  if (resource === null) error(404, { message: 'There is no such resource.' });
  return json({ ...resource, exemplars: await exemplarsOf(db, id, mostExemplars) });
};

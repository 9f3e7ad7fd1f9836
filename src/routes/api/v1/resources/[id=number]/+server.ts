import { error, json } from '@sveltejs/kit';
import { resourceById } from '$server/intake/resources';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** One resource with its account, region, tags and when it was seen. */
export const GET: RequestHandler = async ({ params }) => {
  const resource = await resourceById(bussola().db, Number(params.id));
  return resource === null ? error(404, { message: 'There is no such resource.' }) : json(resource);
};

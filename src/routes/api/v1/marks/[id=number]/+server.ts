import { removeMark } from '$server/marks/marks';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const DELETE: RequestHandler = async ({ params }) => {
  const { db, changes } = bussola();
  const id = Number(params.id);
  if (await removeMark(db, id)) changes.tell('mark', { markId: id });
  return new Response(null, { status: 204 });
};

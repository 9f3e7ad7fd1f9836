import { revokeLink } from '$server/boards/links';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** Revokes a link: who opens it from now on is told that it is not valid any more. */
export const DELETE: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'govern', async ({ id }) => {
    const { db, clock } = bussola();
    await revokeLink(db, id, Number(params.link), clock.now());
    return new Response(null, { status: 204 });
  });

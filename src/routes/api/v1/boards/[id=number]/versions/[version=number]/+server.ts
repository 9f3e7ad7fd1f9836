import { json } from '@sveltejs/kit';
import { versionOfBoard } from '$server/boards/boards';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'view', async ({ id }) => {
    const version = await versionOfBoard(bussola().db, id, Number(params.version));
    return version === null
      ? json({ message: 'This version is not kept.', remedy: 'See the versions of the board.' }, { status: 404 })
      : json(version);
  });

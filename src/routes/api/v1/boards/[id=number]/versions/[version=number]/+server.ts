import { json } from '@sveltejs/kit';
import { versionOfBoard } from '$server/boards/boards';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

export const GET: RequestHandler = async ({ params }) => {
  const version = await versionOfBoard(bussola().db, Number(params.id), Number(params.version));
  return version === null
    ? json({ message: 'This version is not kept.', remedy: 'See the versions of the board.' }, { status: 404 })
    : json(version);
};

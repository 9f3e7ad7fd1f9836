import { json } from '@sveltejs/kit';
import { differencesOf, summaryOf } from '$lib/core/board';
import { versionsOfBoard } from '$server/boards/boards';
import { noSuchBoard } from '$server/boards/missing';
import { bussola } from '$server/running';
import type { RequestHandler } from './$types';

/** The versions of a board, newest first, each with what became different. */
export const GET: RequestHandler = async ({ params }) => {
  const versions = await versionsOfBoard(bussola().db, Number(params.id));
  if (versions.length === 0) return json(noSuchBoard, { status: 404 });
  return json({
    versions: versions.map(({ version, madeAt, madeBy, board }, index) => {
      const before = versions[index + 1]?.board;
      return { version, madeAt, madeBy, summary: before ? summaryOf(differencesOf(before, board)) : 'As it began' };
    })
  });
};

import { json } from '@sveltejs/kit';
import { differencesOf, summaryOf } from '$lib/core/board';
import { versionsOfBoard } from '$server/boards/boards';
import { permitted } from '$server/boards/permit';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** The versions of a board, newest first, each with what became different. */
export const GET: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'view', async ({ id }) => {
    const versions = await versionsOfBoard(bussola().db, id);
    return json({
      versions: versions.map(({ version, madeAt, madeBy, board }, index) => {
        const before = versions[index + 1]?.board;
        return { version, madeAt, madeBy, summary: before ? summaryOf(differencesOf(before, board)) : 'As it began' };
      })
    });
  });

import { boardOf } from '$lib/core/board';
import { boardFile } from '$lib/core/board/file';
import { permitFor } from '$server/boards/permit';
import { metricNames } from '$server/inventory/metrics';
import { refusePage } from '$server/http/pages';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, locals }) => {
  const { db } = bussola();
  const permit = await permitFor(db, locals.person, Number(params.id), 'view');
  if (permit.kind === 'no') refusePage(permit.refusal);
  const { id } = permit.board;
  const board = boardOf(permit.board);
  return {
    id,
    title: board.title,
    mayEdit: permit.may === 'edit',
    text: boardFile(board, 'yaml'),
    metrics: await metricNames(db)
  };
};

import { allBoards } from '$server/boards/boards';
import { bussola } from '$server/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async () => ({
  boards: (await allBoards(bussola().db)).map(({ id, title, panels, changedAt, changedBy }) => ({
    id,
    title,
    panels: panels.map((panel) => panel.title),
    changedAt,
    changedBy
  }))
});

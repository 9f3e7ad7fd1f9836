import { unusedThings } from '$server/tidy/unused';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const { boards, ...found } = await unusedThings(db, clock.now());
  return {
    ...found,
    // Of a private board, nobody else reads the title.
    boards: boards.map(({ id, title, reach, at }) => ({
      ...{ id, at, isPrivate: reach === 'private' },
      name: reach === 'private' ? 'a private board' : title
    }))
  };
};

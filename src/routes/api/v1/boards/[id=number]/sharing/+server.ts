import { json } from '@sveltejs/kit';
import { sharingSchema } from '$lib/core/board';
import { asked } from '$server/http/asked';
import { shareBoard } from '$server/boards/boards';
import { permitted } from '$server/boards/permit';
import { linksOfBoard } from '$server/boards/links';
import { isTaken } from '$server/db/pool';
import { allPeople } from '$server/people/people';
import { Refusal } from '$server/base/refusal';
import { bussola } from '$server/process/running';
import type { RequestHandler } from './$types';

/** With whom the board is shared, who there is to share it with, and its links. */
export const GET: RequestHandler = ({ params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'govern', async ({ id, sharing }) => {
    const { db, clock } = bussola();
    const [people, links] = await Promise.all([allPeople(db), linksOfBoard(db, id, clock.now())]);
    return json({
      sharing,
      people: people.map(({ id: of, displayName, role }) => ({ id: of, displayName, role })),
      links
    });
  });

export const PUT: RequestHandler = ({ request, params, locals }) =>
  permitted(bussola().db, locals.person, Number(params.id), 'govern', ({ id, title }) =>
    asked(request, sharingSchema, async (sharing) => {
      const { db, changes } = bussola();
      try {
        await shareBoard(db, id, sharing);
      } catch (error) {
        if (isTaken(error))
          throw new Refusal(`There is already a board titled ${title}.`, 'Give this one another title first.');
        if ((error as { code?: string }).code === '23503')
          throw new Refusal('One of the people named is not here any more.', 'Load the page again.');
        throw error;
      }
      changes.tell('board', { boardId: id });
      return json({ sharing });
    })
  );

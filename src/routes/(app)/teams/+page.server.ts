import { titlesFor } from '$server/boards/permit';
import { allPeople } from '$server/people/people';
import { bussola } from '$server/process/running';
import { allTeams } from '$server/workspace/teams';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [seen, people] = await Promise.all([titlesFor(db, locals.person), allPeople(db)]);
  return {
    people: people.map(({ id, displayName }) => ({ id, displayName })),
    teams: await allTeams(
      db,
      seen.map(({ id }) => id)
    )
  };
};

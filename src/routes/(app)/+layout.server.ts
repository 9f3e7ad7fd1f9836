import type { Person } from '$server/people/people';
import { favouritesOf } from '$server/boards/favourites';
import { titlesFor } from '$server/boards/permit';
import { overview } from '$server/incidents/overview';
import { chosenNight } from '$server/http/theme';
import { teamNames } from '$server/workspace/teams';
import { bussola } from '$server/process/running';
import type { LayoutServerLoad } from './$types';

export const load: LayoutServerLoad = async ({ locals, depends, cookies }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const [boards, favourites, teams, around] = await Promise.all([
    titlesFor(db, locals.person),
    favouritesOf(db, locals.person?.id ?? 0),
    teamNames(db),
    overview(bussola())
  ]);
  return {
    person: locals.person as Person,
    /** Boards that the search finds, and whether they are favourites in the index. */
    boards: boards.map(({ id, title, may }) => ({ id, title, may, isFavourite: favourites.includes(id) })),
    teams,
    night: chosenNight(cookies),
    overview: around
  };
};

import { allRemovals } from '$server/removals/removals';
import { unusedThings } from '$server/tidy/unused';
import { allProfiles } from '$server/people/people';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

/** What was removed that the page lists. */
const mostRemovals = 100;

export const load: PageServerLoad = async ({ depends, locals }) => {
  depends('bussola:overview');
  const { db, clock } = bussola();
  const { boards, ...found } = await unusedThings(db, clock.now());
  return {
    ...found,
    me: locals.person?.displayName ?? '',
    signedInAt: locals.session?.beganAt ?? clock.now(),
    makers: (await allProfiles(db)).map(({ displayName }) => displayName),
    removals: await allRemovals(db, locals.person?.id ?? 0, mostRemovals),
    // Of a private board, nobody else reads the title.
    boards: boards.map(({ id, title, reach, at }) => ({
      ...{ id, at, isPrivate: reach === 'private' },
      name: reach === 'private' ? 'a private board' : title
    }))
  };
};

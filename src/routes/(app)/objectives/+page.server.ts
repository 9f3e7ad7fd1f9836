import { objectives } from '$server/objective/objectives';
import { objectiveStandings } from '$server/objective/objective-view';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ depends }) => {
  depends('bussola:objectives');
  const server = bussola();
  const all = await objectives.all(server.db);
  const standings = await objectiveStandings(
    server,
    all.filter(({ value }) => value.enabled)
  );
  let next = 0;
  return {
    now: server.clock.now(),
    promises: all.map(({ id, value }) => ({
      ...{ id, objective: value },
      found: value.enabled ? (standings[next++] ?? null) : null
    }))
  };
};

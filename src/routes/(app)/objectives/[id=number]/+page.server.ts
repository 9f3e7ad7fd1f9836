import { error } from '@sveltejs/kit';
import { problemOf, Refusal } from '$lib/core/problem/problem';
import { objectiveChoices } from '$server/objective/objective-choices';
import { objectives } from '$server/objective/objectives';
import { objectiveView } from '$server/objective/objective-view';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:objectives');
  depends('bussola:overview');
  const server = bussola();
  const stored = await objectives.byId(server.db, Number(params.id));
  if (stored === null) error(404, objectives.missing());
  const found = await objectiveView(server, stored.value, stored.alarmId).then(
    (view) => ({ view, problem: null }),
    (failure: unknown) => {
      if (!(failure instanceof Refusal)) throw failure;
      return { view: null, problem: problemOf(failure) };
    }
  );
  const { routing, ...choices } = await objectiveChoices(server);
  return {
    ...{ now: server.clock.now(), stored, ...found, choices },
    routes: routing.routes.map(({ id, route: { name } }) => ({ id, name }))
  };
};

import { error } from '@sveltejs/kit';
import { eventRuleById } from '$server/events/event-rules';
import { eventNames } from '$server/events/outside-events';
import { bussola } from '$server/process/running';
import { routingChoices } from '$server/routing/routing-choices';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ params, depends }) => {
  depends('bussola:overview');
  const { db } = bussola();
  const stored = await eventRuleById(db, Number(params.id));
  if (stored === null)
    error(404, { message: 'There is no such event rule.', remedy: 'See the rules on the page Events.' });
  const [names, routing] = await Promise.all([eventNames(db), routingChoices(db)]);
  return { stored, names, routes: routing.routes.map(({ id, route }) => ({ id, name: route.name })) };
};

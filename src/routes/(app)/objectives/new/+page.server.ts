import { draftAlarm } from '$server/alarms/draft';
import { objectiveChoices } from '$server/objective/objective-choices';
import { bussola } from '$server/process/running';
import type { PageServerLoad } from './$types';

export const load: PageServerLoad = async ({ url }) => {
  const server = bussola();
  // A limit that suits the signal is the one that an alarm would have.
  const { signal, rule } = await draftAlarm(server, url.searchParams.get('signal'));
  if (signal === undefined) throw new TypeError('draftAlarm: a signal was expected');
  const condition = rule.levels.at(-1)?.condition;
  const { routing, ...choices } = await objectiveChoices(server);
  return {
    signal,
    limit: condition?.kind === 'threshold' && 'limit' in condition ? condition.limit : 1,
    isLow: condition?.kind === 'threshold' && condition.is === 'below',
    title: url.searchParams.get('title') ?? '',
    choices,
    routes: routing.routes.map(({ id, route: { name } }) => ({ id, name }))
  };
};

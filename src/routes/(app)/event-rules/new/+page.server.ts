import { eventIds, type EventRule } from '$lib/core/events';
import { eventById, eventNames } from '$server/events/outside-events';
import { bussola } from '$server/process/running';
import { routingChoices } from '$server/routing/routing-choices';
import type { PageServerLoad } from './$types';

/** A rule that is begun: of an event where the address names one. */
export const load: PageServerLoad = async ({ url }) => {
  const { db } = bussola();
  const ids = eventIds(url.searchParams.get('event') ?? '');
  const [event, names, routing] = await Promise.all([
    ids === null ? null : eventById(db, ...ids),
    eventNames(db),
    routingChoices(db)
  ]);
  const begun: EventRule = {
    name: event === null ? '' : `${event.type.charAt(0).toUpperCase()}${event.type.slice(1)}`,
    enabled: true,
    when: {
      types: event === null ? [] : [event.type],
      // Of what a program sent, the account is that of the resource.
      sources: event === null ? [] : [event.isSent ? event.source : event.account],
      resources: [],
      attributes: []
    },
    severity: 'major',
    clears: { by: 'hand' },
    ...{ route: null, labels: {}, about: '', runbook: '' }
  };
  return { begun, names, routes: routing.routes.map(({ id, route }) => ({ id, name: route.name })) };
};

import type { RoutingChoices } from '$lib/core/notify/route';
import { serviceByKey, serviceOrder } from '$lib/core/services';
import type { Queryable } from '../db/pool';
import { allAccounts } from '../inventory/accounts';
import { allMetrics } from '../inventory/metrics';
import { allChannels } from '../notify/channels';
import { allPeople } from '../people/people';
import { allGroups } from '../query/groups/groups';
import { allRotas } from '../rotas/rotas';
import { allRoutes, isListed } from './routes';

/** Routes, and what they can refer to. */
export async function routingChoices(db: Queryable): Promise<RoutingChoices> {
  const [routes, channels, people, rotas, groups, metrics, accounts] = await Promise.all([
    allRoutes(db),
    allChannels(db),
    allPeople(db),
    allRotas(db),
    allGroups(db),
    allMetrics(db),
    allAccounts(db)
  ]);
  const services = [...new Set(metrics.map(({ service }) => service))].sort(
    (a, b) => serviceOrder(a) - serviceOrder(b)
  );
  return {
    routes: routes.map((one) => ({ id: one.id, isListed: isListed(one), isLast: one.isLast, route: one.route })),
    channels: channels.map(({ id, name, address, kind, confirmedAt, personId }) => ({
      ...{ id, name, address, kind, personId, confirmed: confirmedAt !== null }
    })),
    people: people.map(({ id, displayName }) => ({ id, displayName })),
    rotas: rotas.map(({ id, rota }) => ({
      id,
      name: rota.name,
      people: [...new Set(rota.layers.flatMap((layer) => layer.people))]
    })),
    groups: groups.map(({ id, name }) => ({ id, name })),
    services: services.map((key) => ({ key, title: serviceByKey(key).title })),
    accounts: accounts.map(({ name }) => name)
  };
}

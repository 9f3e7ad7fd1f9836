import { severities } from '$lib/core/alarm';
import { belonging } from '$lib/core/group';
import {
  namesIn,
  targetText,
  tryRoutes,
  type RoutedIncident,
  type RoutePart,
  type Target,
  type TriedNotification
} from '$lib/core/notify/route';
import { Refusal } from '$lib/core/problem/problem';
import { after, day, times, type Instant } from '$lib/core/time';
import { z } from 'zod';
import type { Queryable } from '../db/pool';
import { incidentById } from '../incidents/incidents';
import { allResources } from '../inventory/resources';
import { groupLabelsOf } from '../query/groups/members';
import { rotasWithOverrides } from '../rotas/rotas';
import { reachOf, recipientsOf, contactsNow } from './recipients';
import { raiserOf } from './raiser';
import { routedIncident, routeOf, routingTable, type RoutingTable } from './routing';
import { routingChoices } from '../routing/routing-choices';

/** An incident that never was. */
export const imaginedSchema = z.strictObject({
  severity: z.enum(severities),
  service: z.string().max(100).default(''),
  account: z.string().max(100).default(''),
  resource: z.string().max(300).default(''),
  labels: z.record(z.string().max(100), z.string().max(200)).default({})
});
export type Imagined = z.infer<typeof imaginedSchema>;

/** Somebody who would be notified of an incident, in words. */
export interface WouldBeNotified {
  readonly at: Instant;
  readonly why: TriedNotification['why'];
  /** Whom the route names, such as "Data by e-mail". */
  readonly who: string;
  /** Who that is then; null for a channel, and for a rota that nobody is on call by. */
  readonly person: string | null;
  readonly kind: Target['kind'];
  /** Whether anything confirmed reaches them at once. */
  readonly isReached: boolean;
  /** Until when they are not disturbed, by their quiet hours; null when that does not matter. */
  readonly quietUntil: Instant | null;
}

export interface TriedIncident {
  /** The route that takes it; null when nobody would be notified. */
  readonly route: { readonly id: number; readonly name: string; readonly isNamed: boolean } | null;
  /** What it lacked for each route above. */
  readonly lacked: readonly { readonly id: number; readonly name: string; readonly parts: readonly RoutePart[] }[];
  readonly notified: readonly WouldBeNotified[];
}

/** Notifications that are listed. */
const mostListed = 40;

/**
 * Which route would take an incident at an instant, and who would be notified when and by what, if nobody acknowledged it.
 *
 * @param asked an incident that there was, or one that is imagined
 * @throws Refusal `not-found` when there is no such incident
 */
export async function tryIncident(
  db: Queryable,
  asked: { readonly incidentId: number } | { readonly imagined: Imagined },
  at: Instant
): Promise<TriedIncident> {
  const [table, choices, contacts, rotas] = await Promise.all([
    routingTable(db),
    routingChoices(db),
    contactsNow(db, at),
    rotasWithOverrides(db, at, after(at, times(2, day)))
  ]);
  const { routed, named } =
    'incidentId' in asked
      ? await knownIncident(db, table, asked.incidentId)
      : await imaginedIncident(db, table, asked.imagined);
  const { route, lacked } = routeOf(table, routed, named, at);
  const names = namesIn(choices);
  const tried =
    route === null ? [] : tryRoutes([{ ...route.route, when: noCondition }], routed, at, rotas, mostListed).notified;
  return {
    route: route && { id: route.id, name: route.route.name, isNamed: route.id === named },
    lacked: lacked.flatMap((parts, position) => {
      const stored = table.list[position];
      return stored ? [{ id: stored.id, name: stored.route.name, parts }] : [];
    }),
    notified: tried.map(({ at: when, why, target, personId }) => ({
      at: when,
      why,
      who: targetText(target, names),
      kind: target.kind,
      person: personId === null ? null : names.person(personId),
      ...reachOf(recipientsOf([target], { ...contacts, at: when, rotas }, routed.severity))
    }))
  };
}

const noCondition = { severities: [], services: [], accounts: [], groupIds: [], labels: [], times: null };

async function knownIncident(
  db: Queryable,
  table: RoutingTable,
  id: number
): Promise<{ routed: RoutedIncident; named: number | null }> {
  const incident = await incidentById(db, id);
  if (incident === null)
    throw new Refusal('not-found', 'There is no such incident.', 'It may be older than incidents are stored.');
  const raiser = await raiserOf(db, incident);
  return {
    routed: await routedIncident(db, table, incident, raiser, incident.severity),
    named: raiser?.route ?? null
  };
}

async function imaginedIncident(
  db: Queryable,
  { groups }: RoutingTable,
  { severity, service, account, resource, labels }: Imagined
): Promise<{ routed: RoutedIncident; named: null }> {
  const found = (await allResources(db)).find(
    (one) => one.name === resource && (account === '' || one.account === account)
  );
  const known = found ? groupLabelsOf(found) : null;
  return {
    named: null,
    routed: {
      ...{ severity, resource, alarmId: 0, incidentId: 0 },
      service: found?.service ?? service,
      account: found?.account ?? account,
      region: found?.region ?? '',
      labels: { ...found?.tags, ...labels },
      groupIds: known === null ? [] : groups.filter(({ rule }) => belonging(rule)(known)).map(({ id }) => id)
    }
  };
}

import type { AlarmReach, Severity } from '../../alarm';
import type { Instant } from '../../time';
import { lackedFor } from './match';
import type { Route, RoutedIncident, Target } from './route';
import { stepsText, type RouteNames } from './sentence';

/** Routes, and who can be reached by them, as pages know them. */
export interface RoutingChoices {
  /** In the order of the list; then those that only alarms name. */
  readonly routes: readonly {
    readonly id: number;
    readonly isListed: boolean;
    readonly isLast: boolean;
    readonly route: Route;
  }[];
  readonly channels: readonly {
    readonly id: number;
    readonly name: string;
    readonly address: string;
    readonly kind: string;
    readonly confirmed: boolean;
    readonly personId: number | null;
  }[];
  readonly people: readonly { readonly id: number; readonly displayName: string }[];
  /** With everybody who ever has the watch by them. */
  readonly rotas: readonly { readonly id: number; readonly name: string; readonly people: readonly number[] }[];
  readonly groups: readonly { readonly id: number; readonly name: string }[];
  readonly services: readonly { readonly key: string; readonly title: string }[];
  readonly accounts: readonly string[];
}

/** What an alarm is routed by before anything is raised. */
export interface RoutedAlarm {
  /** The route that it names; null for the list. */
  readonly route: number | null;
  /** The gravest that it can be raised with. */
  readonly severity: Severity;
  readonly service: string;
  readonly labels: Readonly<Record<string, string>>;
}

/** The names of the things that routes refer to. */
export function namesIn({ rotas, people, channels, groups, services }: Omit<RoutingChoices, 'routes'>): RouteNames {
  const nameOr = (name: string | undefined, gone: string) => name ?? gone;
  return {
    rota: (id) => nameOr(rotas.find((rota) => rota.id === id)?.name, 'a rota that was removed'),
    person: (id) => nameOr(people.find((person) => person.id === id)?.displayName, 'somebody who was removed'),
    channel: (id) => nameOr(channels.find((channel) => channel.id === id)?.name, 'a channel that was removed'),
    group: (id) => nameOr(groups.find((group) => group.id === id)?.name, 'a group that was removed'),
    service: (key) => nameOr(services.find((service) => service.key === key)?.title, key)
  };
}

/**
 * Who would be notified of the gravest that an alarm can raise: by the route that it names, or by the first of the list that may take it. Conditions on accounts, groups and hours are left out, since they depend on the incident.
 *
 * @returns null when no route takes it
 * @example reachOf({ route: null, severity: 'major', service: 'machines', labels: {} }, choices)?.route // 'Everything else'
 */
export function reachOf(alarm: RoutedAlarm, choices: RoutingChoices): AlarmReach | null {
  const { routes } = choices;
  const found =
    routes.find(({ id }) => id === alarm.route) ??
    routes.find(({ isListed, isLast, route }) => isListed && (isLast || mayTake(route, alarm)));
  if (found === undefined) return null;
  const { route } = found;
  const first = (route.steps[0]?.notify ?? []).map((target) => addressesOf(target, choices));
  return {
    route: route.name,
    says: stepsText(route, namesIn(choices)),
    confirmed: first.reduce((sum, { confirmed }) => sum + confirmed, 0),
    unconfirmed: first.flatMap(({ unconfirmed }) => unconfirmed)
  };
}

function mayTake(route: Route, { severity, service, labels }: RoutedAlarm): boolean {
  const incident: RoutedIncident = {
    ...{ severity, service, labels, account: '', region: '', resource: '', alarmId: 0, incidentId: 0, groupIds: [] }
  };
  const when = { ...route.when, accounts: [], groupIds: [], times: null };
  return lackedFor({ when, zone: route.zone }, incident, 0 as Instant).length === 0;
}

/** Channels of a target that are confirmed, and who of it would receive nothing. */
export function addressesOf(
  target: Target,
  { channels, people, rotas }: Pick<RoutingChoices, 'channels' | 'people' | 'rotas'>
): { readonly confirmed: number; readonly unconfirmed: readonly string[] } {
  if (target.kind === 'channel') {
    const channel = channels.find(({ id }) => id === target.channelId);
    if (channel === undefined) return { confirmed: 0, unconfirmed: ['a channel that was removed'] };
    return channel.confirmed ? { confirmed: 1, unconfirmed: [] } : { confirmed: 0, unconfirmed: [channel.address] };
  }
  const ids =
    target.kind === 'person' ? [target.personId] : (rotas.find(({ id }) => id === target.rotaId)?.people ?? []);
  const kinds: readonly string[] = target.by;
  const own = (id: number) =>
    channels.filter((channel) => channel.personId === id && channel.confirmed && kinds.includes(channel.kind));
  const unreached = ids.filter((id) => own(id).length === 0);
  return {
    confirmed: ids.reduce((sum, id) => sum + own(id).length, 0),
    unconfirmed: unreached.map(
      (id) => people.find((person) => person.id === id)?.displayName ?? 'somebody who was removed'
    )
  };
}

import { timesOfCells, type Times } from '../../alarm';
import { minute, type Instant } from '../../time';
import type { Route, RouteCondition, RoutedIncident } from './route';

/** A part of a route's condition. */
export type RoutePart = 'severity' | 'service' | 'account' | 'group' | 'label' | 'time';

/**
 * What an incident lacks for a route: the parts of its condition that do not hold. None when the route takes it.
 *
 * @param at when it was raised
 * @example lackedFor(route, { ...incident, severity: 'minor' }, at) // ['severity']
 */
export function lackedFor(
  { when, zone }: Pick<Route, 'when' | 'zone'>,
  incident: RoutedIncident,
  at: Instant
): RoutePart[] {
  return parts.filter((part) => !holds[part](when, incident, at, zone));
}

/**
 * The position of the first route that takes an incident, and what it lacked for each route above.
 *
 * @returns `taken` is null when no route takes it
 * @example routeFor([night, rest], incident, at) // { taken: 1, lacked: [['time']] }
 */
export function routeFor(
  routes: readonly Pick<Route, 'when' | 'zone'>[],
  incident: RoutedIncident,
  at: Instant
): { readonly taken: number | null; readonly lacked: readonly RoutePart[][] } {
  const lacked: RoutePart[][] = [];
  for (const [position, route] of routes.entries()) {
    const parts = lackedFor(route, incident, at);
    if (parts.length === 0) return { taken: position, lacked };
    lacked.push(parts);
  }
  return { taken: null, lacked };
}

type Holds = (when: RouteCondition, incident: RoutedIncident, at: Instant, zone: string) => boolean;

const isAny = <Value>(wanted: readonly Value[], value: Value): boolean => wanted.length === 0 || wanted.includes(value);

const holds: Readonly<Record<RoutePart, Holds>> = {
  severity: ({ severities }, { severity }) => isAny(severities, severity),
  service: ({ services }, { service }) => isAny(services, service),
  account: ({ accounts }, { account }) => isAny(accounts, account),
  group: ({ groupIds: wanted }, { groupIds }) => wanted.length === 0 || groupIds.some((id) => wanted.includes(id)),
  label: ({ labels: wanted }, { labels }) =>
    wanted.every(({ label, is }) => Object.hasOwn(labels, label) && is.includes(labels[label] as string)),
  time: ({ times }, _incident, at, zone) => times === null || isWithin(times, at, zone)
};

const parts = Object.keys(holds) as RoutePart[];

const isWithin = (times: Times, at: Instant, zone: string): boolean =>
  timesOfCells([times], { start: at, step: minute, count: 1 }, zone)[0] === 0;

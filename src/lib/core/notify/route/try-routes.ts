import { onCallAt, type Override, type Rota } from '../../rota';
import { after, duration, type Instant } from '../../time';
import { routeFor, type RoutePart } from './match';
import type { Route, RoutedIncident, Target } from './route';
import { afterEvent, dueMessages, emptyThread, nextDue, type Thread } from './thread';

/** A rota with what counts more than its layers. */
export interface RotaWithOverrides {
  readonly rota: Rota;
  readonly overrides: readonly Override[];
}

/** Somebody who would be notified. */
export interface TriedNotification {
  readonly at: Instant;
  readonly why: 'news' | 'step' | 'repeat' | 'digest';
  readonly target: Target;
  /** Of a rota or a person: who that is then; null for a rota that nobody is on call by, and for channels. */
  readonly personId: number | null;
}

/** What would become of an incident. */
export interface TriedRoutes {
  /** Position of the route that takes it; null when none does. */
  readonly taken: number | null;
  /** What it lacked for each route above. */
  readonly lacked: readonly (readonly RoutePart[])[];
  readonly notified: readonly TriedNotification[];
}

/**
 * Who would be notified of an incident, when and by what, if nobody acknowledged it: as routes and rotas are, at any time of the week.
 *
 * @param rotas by their ids; one that is not there has nobody on call
 * @param most notifications that are listed
 * @example tryRoutes([route], incident, at, new Map([[1, { rota, overrides: [] }]]), 20).notified // [{ at, why: 'news', target: { kind: 'rota', … }, personId: 3 }]
 */
export function tryRoutes(
  routes: readonly Route[],
  incident: RoutedIncident,
  at: Instant,
  rotas: ReadonlyMap<number, RotaWithOverrides>,
  most: number
): TriedRoutes {
  const { taken, lacked } = routeFor(routes, incident, at);
  const route = taken === null ? undefined : routes[taken];
  if (route === undefined) return { taken, lacked, notified: [] };
  const notified: TriedNotification[] = [];
  let thread: Thread = afterEvent(emptyThread, { kind: 'opened', incidentId: incident.incidentId, at }, route);
  for (let due = nextDue(thread, route); due !== null && notified.length < most; due = nextDue(thread, route)) {
    const { messages, thread: next } = dueMessages(thread, route, due);
    thread = next;
    for (const { why, to } of messages)
      for (const target of to) notified.push({ at: due, why, target, personId: personOf(target, due, rotas) });
    if (due > after(at, duration(longest))) break;
  }
  return { taken, lacked, notified: notified.slice(0, most) };
}

/** Repetitions are not followed for longer. */
const longest = 86_400_000;

/** Who a target is at an instant. @example personOf({ kind: 'person', personId: 3, by: ['email'] }, at, rotas) // 3 */
export function personOf(target: Target, at: Instant, rotas: ReadonlyMap<number, RotaWithOverrides>): number | null {
  if (target.kind === 'person') return target.personId;
  if (target.kind === 'channel') return null;
  const known = rotas.get(target.rotaId);
  return known ? onCallAt(known.rota, known.overrides, at) : null;
}

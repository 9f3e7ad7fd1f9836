import { hasRights, type Role } from '$lib/core/people/rights';

/** Who may use a route: anybody, or people of at least a role. */
export type Access = 'anybody' | Role;

/** What reading a route needs, and what changing through it needs. */
interface Row {
  readonly read: Access;
  readonly change: Access;
  /** Actions of a page that need more than its other ones. */
  readonly actions?: Readonly<Record<string, Role>>;
}

/** One row a route; docs/guides/who-may-do-what.md has the same for people. A route without a row is closed to everybody. */
const routes: Readonly<Record<string, Row>> = {
  '/sign-in': { read: 'anybody', change: 'anybody' },
  '/sign-out': { read: 'viewer', change: 'viewer' },
  '/healthz': { read: 'anybody', change: 'administrator' },
  '/readyz': { read: 'anybody', change: 'administrator' },
  '/confirm/[token]': { read: 'anybody', change: 'anybody' },
  '/(app)': { read: 'viewer', change: 'editor' },
  '/(app)/services/[service]/board': { read: 'viewer', change: 'editor' },
  '/(app)/alarms': { read: 'viewer', change: 'editor' },
  '/(app)/alarms/new': { read: 'editor', change: 'editor' },
  '/(app)/alarms/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/incidents': { read: 'viewer', change: 'editor' },
  '/(app)/incidents/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/accounts': { read: 'viewer', change: 'administrator' },
  '/(app)/accounts/new': { read: 'administrator', change: 'administrator' },
  '/(app)/accounts/[id=number]': {
    read: 'viewer',
    // A plan of an editor leaves retention as it is: see intake/plan/plans.ts.
    change: 'editor',
    actions: {
      test: 'administrator',
      credential: 'administrator',
      price: 'administrator',
      guests: 'administrator'
    }
  },
  '/(app)/coverage': { read: 'viewer', change: 'editor', actions: { guests: 'administrator' } },
  '/(app)/intake': { read: 'viewer', change: 'editor' },
  '/(app)/refused': { read: 'viewer', change: 'administrator' },
  '/(app)/store': { read: 'viewer', change: 'administrator' },
  '/(app)/bench': { read: 'viewer', change: 'editor' },
  '/(app)/resources/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/boards/import': { read: 'editor', change: 'editor' },
  '/(app)/boards/[id=number]/file': { read: 'viewer', change: 'administrator' },
  '/(app)/boards': { read: 'viewer', change: 'editor' },
  '/(app)/boards/[id=number]': { read: 'viewer', change: 'viewer' },
  '/(app)/signals': { read: 'viewer', change: 'editor' },
  '/(app)/derived': { read: 'viewer', change: 'editor' },
  '/(app)/groups': { read: 'viewer', change: 'editor' },
  '/(app)/groups/new': { read: 'editor', change: 'editor' },
  '/(app)/groups/[id=number]': { read: 'viewer', change: 'editor' },
  '/api/v1/accounts/[id=number]/estimate': { read: 'administrator', change: 'viewer' },
  '/api/v1/accounts/[id=number]/keeping': { read: 'viewer', change: 'administrator' },
  '/(app)/channels': { read: 'viewer', change: 'editor' },
  // Everybody revokes the keys they made; those of others only administrators do.
  '/(app)/receive': { read: 'viewer', change: 'editor' },
  // Other programs have a key instead of a sign-in: the routes themselves look at it.
  '/otlp/v1/metrics': { read: 'administrator', change: 'anybody' },
  '/api/v1/receive/[format]': { read: 'administrator', change: 'anybody' },
  '/live': { read: 'viewer', change: 'administrator' },
  // A query changes nothing: it is sent by POST because a signal is too long for an address.
  '/api/v1/query': { read: 'viewer', change: 'viewer' },
  '/api/v1/queries': { read: 'viewer', change: 'viewer' },
  '/api/v1/picks': { read: 'viewer', change: 'viewer' },
  '/api/v1/groups/match': { read: 'viewer', change: 'viewer' },
  '/api/v1/metrics': { read: 'viewer', change: 'administrator' },
  '/api/v1/metrics/[name]': { read: 'viewer', change: 'administrator' },
  '/api/v1/boards/[id=number]/file': { read: 'viewer', change: 'administrator' },
  // A plan changes nothing, but only who may apply it needs one.
  '/api/v1/boards/plan': { read: 'administrator', change: 'editor' },
  '/api/v1/boards/apply': { read: 'administrator', change: 'editor' },
  '/api/v1/schemas/board': { read: 'anybody', change: 'administrator' },
  '/api/v1/schemas/signal': { read: 'anybody', change: 'administrator' },
  '/api/v1/derived': { read: 'viewer', change: 'editor' },
  '/api/v1/boards': { read: 'viewer', change: 'editor' },
  // What somebody may do with one board is said by the board itself: see boards/permit.ts.
  '/api/v1/boards/[id=number]': { read: 'viewer', change: 'viewer' },
  '/api/v1/boards/[id=number]/panels': { read: 'editor', change: 'viewer' },
  '/api/v1/boards/[id=number]/panels/[panel]': { read: 'administrator', change: 'viewer' },
  '/api/v1/boards/[id=number]/sharing': { read: 'viewer', change: 'viewer' },
  '/api/v1/boards/[id=number]/links': { read: 'administrator', change: 'viewer' },
  '/api/v1/boards/[id=number]/links/[link=number]': { read: 'administrator', change: 'viewer' },
  '/api/v1/boards/[id=number]/favourite': { read: 'administrator', change: 'viewer' },
  // Whoever has the link may see its board, and ask for nothing else.
  '/shared/[token]': { read: 'anybody', change: 'administrator' },
  '/api/v1/shared/[token]/queries': { read: 'administrator', change: 'anybody' },
  '/wall': { read: 'viewer', change: 'administrator' },
  '/api/v1/boards/[id=number]/versions': { read: 'viewer', change: 'administrator' },
  '/api/v1/boards/[id=number]/versions/[version=number]': { read: 'viewer', change: 'administrator' },
  // Being on a board is told by whoever reads it.
  '/api/v1/boards/[id=number]/presence': { read: 'administrator', change: 'viewer' },
  '/api/v1/marks': { read: 'viewer', change: 'editor' },
  '/api/v1/marks/[id=number]': { read: 'administrator', change: 'editor' },
  '/api/v1/receive/marks': { read: 'administrator', change: 'anybody' },
  '/api/v1/signals': { read: 'viewer', change: 'editor' },
  '/api/v1/signals/[id=number]': { read: 'viewer', change: 'editor' },
  '/api/v1/resources/[id=number]': { read: 'viewer', change: 'administrator' }
};

/** Routes to which programs come with a key: no cookie counts there, so that nothing can be done in a person's name. */
const keyRoutes: ReadonlySet<string> = new Set([
  '/otlp/v1/metrics',
  '/api/v1/receive/[format]',
  '/api/v1/receive/marks'
]);

/** @example takesKey('/otlp/v1/metrics') // true */
export const takesKey = (route: string): boolean => keyRoutes.has(route);

/** The routes that have a row. */
export const knownRoutes: readonly string[] = Object.keys(routes);

/** The rows themselves, for what is written of them. */
export const accessRows: Readonly<Record<string, Row>> = routes;

/**
 * Whether a route may be used by somebody.
 *
 * @param role null for somebody who has not signed in
 * @param action of a page that is asked for; null when none is named
 * @returns `yes`; `sign in` when signing in might help; `no` when it would not
 * @example mayUse('/(app)/alarms/new', 'GET', 'viewer') // 'no'
 */
export function mayUse(
  route: string,
  method: string,
  role: Role | null,
  action: string | null = null
): 'yes' | 'sign in' | 'no' {
  const row = Object.hasOwn(routes, route) ? routes[route] : undefined;
  if (!row) return role === null ? 'sign in' : 'no';
  const isReading = method === 'GET' || method === 'HEAD';
  const ofAction =
    action !== null && row.actions && Object.hasOwn(row.actions, action) ? row.actions[action] : undefined;
  const needed = isReading ? row.read : (ofAction ?? row.change);
  if (needed === 'anybody') return 'yes';
  if (role === null) return 'sign in';
  return hasRights(role, needed) ? 'yes' : 'no';
}

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

/** One row a route; docs/guides/roles-and-rights.md has the same for people. A route without a row is closed to everybody. */
const routes: Readonly<Record<string, Row>> = {
  '/sign-in': { read: 'anybody', change: 'anybody' },
  '/sign-in/second-factor': { read: 'anybody', change: 'anybody' },
  // To another service that signs people in, and back from it.
  '/sign-in/with': { read: 'anybody', change: 'administrator' },
  '/sign-in/back': { read: 'anybody', change: 'administrator' },
  // Whoever has the link of the console, of an invitation or of a reset sets a password by it.
  '/first/[token]': { read: 'anybody', change: 'anybody' },
  '/join/[token]': { read: 'anybody', change: 'anybody' },
  '/reset': { read: 'anybody', change: 'anybody' },
  '/reset/[token]': { read: 'anybody', change: 'anybody' },
  '/sign-out': { read: 'viewer', change: 'viewer' },
  '/healthz': { read: 'anybody', change: 'administrator' },
  // For programs with a key that reads, and for whoever is signed in: the route itself checks it.
  '/metrics': { read: 'anybody', change: 'administrator' },
  '/readyz': { read: 'anybody', change: 'administrator' },
  '/confirm/[token]': { read: 'anybody', change: 'anybody' },
  // Whoever has the link of a message leaves the topic by it.
  '/leave/[token]': { read: 'anybody', change: 'anybody' },
  '/(app)': { read: 'viewer', change: 'editor' },
  '/(app)/services/[service]/board': { read: 'viewer', change: 'editor' },
  '/(app)/alarms': { read: 'viewer', change: 'editor' },
  '/(app)/alarms/new': { read: 'editor', change: 'editor' },
  '/(app)/alarms/recommended': { read: 'editor', change: 'editor' },
  '/(app)/alarms/files': { read: 'viewer', change: 'editor' },
  '/(app)/alarms/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/alarms/[id=number]/versions': { read: 'viewer', change: 'editor' },
  '/(app)/alarms/[id=number]/why': { read: 'viewer', change: 'editor' },
  '/(app)/routes/files': { read: 'viewer', change: 'editor' },
  '/(app)/channels/words': { read: 'viewer', change: 'editor' },
  '/(app)/channels/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/incidents': { read: 'viewer', change: 'editor' },
  '/(app)/incidents/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/accounts': { read: 'viewer', change: 'administrator' },
  '/(app)/backups': { read: 'administrator', change: 'administrator' },
  '/(app)/followers': { read: 'administrator', change: 'administrator' },
  '/(app)/operations': { read: 'viewer', change: 'editor' },
  '/(app)/connectors': { read: 'viewer', change: 'administrator' },
  '/(app)/connectors/new': { read: 'administrator', change: 'administrator' },
  '/(app)/connectors/[id=number]': { read: 'administrator', change: 'administrator' },
  '/(app)/accounts/new/pages': { read: 'administrator', change: 'administrator' },
  '/(app)/accounts/[id=number]/pages': { read: 'viewer', change: 'administrator' },
  '/(app)/accounts/new': { read: 'administrator', change: 'administrator' },
  '/(app)/accounts/[id=number]': {
    read: 'viewer',
    // A plan of an editor leaves retention as it is: see intake/plan/plans.ts.
    change: 'editor',
    actions: {
      test: 'administrator',
      credential: 'administrator',
      price: 'administrator',
      guests: 'administrator',
      remove: 'administrator'
    }
  },
  '/(app)/coverage': { read: 'viewer', change: 'editor', actions: { guests: 'administrator' } },
  '/(app)/intake': { read: 'viewer', change: 'editor' },
  '/(app)/refused': { read: 'viewer', change: 'administrator' },
  '/(app)/processes': { read: 'viewer', change: 'administrator' },
  '/(app)/slow': { read: 'administrator', change: 'administrator' },
  '/(app)/store': { read: 'viewer', change: 'administrator' },
  '/(app)/bench': { read: 'viewer', change: 'editor' },
  '/(app)/logs': { read: 'viewer', change: 'administrator' },
  '/(app)/events': { read: 'viewer', change: 'editor' },
  '/(app)/event-rules/new': { read: 'editor', change: 'editor' },
  '/(app)/event-rules/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/clusters': { read: 'viewer', change: 'administrator' },
  '/(app)/clusters/[id=number]': { read: 'viewer', change: 'administrator' },
  '/(app)/clusters/[id=number]/[copy]': { read: 'viewer', change: 'administrator' },
  '/(app)/checks': { read: 'viewer', change: 'editor' },
  '/(app)/checks/new': { read: 'editor', change: 'editor' },
  '/(app)/checks/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/cost': { read: 'viewer', change: 'administrator' },
  '/(app)/cost/budgets/new': { read: 'editor', change: 'editor' },
  '/(app)/cost/budgets/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/objectives': { read: 'viewer', change: 'administrator' },
  '/(app)/objectives/files': { read: 'viewer', change: 'administrator' },
  '/(app)/objectives/new': { read: 'editor', change: 'editor' },
  '/(app)/objectives/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/growth': { read: 'viewer', change: 'administrator' },
  '/(app)/summary': { read: 'viewer', change: 'administrator' },
  '/(app)/summary/[id=number]': { read: 'viewer', change: 'administrator' },
  '/(app)/summary/plans/new': { read: 'editor', change: 'editor' },
  '/(app)/summary/plans/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/responses': { read: 'viewer', change: 'administrator' },
  '/(app)/responses/new': { read: 'editor', change: 'editor' },
  '/(app)/responses/[id=number]': { read: 'viewer', change: 'editor' },
  '/(app)/bills': { read: 'viewer', change: 'administrator' },
  '/(app)/line-rules': { read: 'viewer', change: 'administrator' },
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
  '/(app)/rotas': { read: 'viewer', change: 'editor' },
  '/(app)/routes': { read: 'viewer', change: 'editor' },
  '/(app)/outbox': { read: 'viewer', change: 'editor' },
  '/(app)/channels': { read: 'viewer', change: 'editor' },
  // People change what is theirs through the API.
  '/(app)/profile': { read: 'viewer', change: 'viewer' },
  '/(app)/people': { read: 'viewer', change: 'administrator' },
  '/(app)/tidy': { read: 'viewer', change: 'editor' },
  '/(app)/teams': { read: 'viewer', change: 'administrator' },
  '/(app)/audit': { read: 'administrator', change: 'administrator' },
  // Everybody revokes the keys they made; those of others only administrators do.
  '/(app)/receive': { read: 'viewer', change: 'editor' },
  // Other programs send a key instead of a sign-in: the route itself checks it.
  '/otlp/v1/metrics': { read: 'administrator', change: 'anybody' },
  '/otlp/v1/logs': { read: 'administrator', change: 'anybody' },
  // Every operation of the API has its own right: see api/operations.ts.
  '/api/[...path]': { read: 'anybody', change: 'anybody' },
  '/logs/search': { read: 'viewer', change: 'administrator' },
  '/logs/follow': { read: 'viewer', change: 'administrator' },
  '/live': { read: 'viewer', change: 'administrator' },
  // Whoever has the link may see its board, and nothing else.
  '/read/[token]': { read: 'anybody', change: 'administrator' },
  '/shared/[token]': { read: 'anybody', change: 'administrator' },
  // Whoever received a message acknowledges by its link, with a press of the button.
  '/a/[token]': { read: 'anybody', change: 'anybody' },
  // Whoever has the address may read its calendar, and nothing else.
  '/calendar/[token]': { read: 'anybody', change: 'administrator' },
  '/wall': { read: 'viewer', change: 'administrator' }
};

/**
 * Whether only a key counts at an address, and no cookie: so nothing can be done there in a person's name.
 *
 * @example takesKey('/otlp/v1/metrics') // true
 */
export const takesKey = (pathname: string): boolean => /^\/(otlp\/|api\/v1\/receive\/)/.test(pathname);

/** The routes that have a row. */
export const knownRoutes: readonly string[] = Object.keys(routes);

/** The rows themselves, for what is written of them. */
export const accessRows: Readonly<Record<string, Row>> = routes;

/**
 * Whether a route may be used by somebody.
 *
 * @param role null for somebody who has not signed in
 * @param action of a page that is requested; null when none is named
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

import { expect } from 'chai';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { roles } from '$lib/core/people/rights';
import { operations } from '../api/operations';
import { accessRows, knownRoutes, mayUse, takesKey } from './access';

const nameOf = ({ method, path }: { method: string; path: string }) => `${method} ${path}`;

/** Ids of the routes that exist, as SvelteKit names them. */
function existingRoutes(): string[] {
  const root = join(process.cwd(), 'src/routes');
  const folders = readdirSync(root, { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile() && /^\+(page|server)\b/.test(entry.name))
    .map((entry) => `/${relative(root, dirname(join(entry.parentPath, entry.name)))}`);
  return [...new Set(folders)].sort();
}

describe('who may use what', () => {
  it('is said for every route there is, and for no other', () => {
    expect([...knownRoutes].sort()).to.deep.equal(existingRoutes());
  });

  it('only signing in and joining, confirming a channel, leaving a topic, health, boards, summaries and calendars by a link and what decides by itself are open to everybody', () => {
    const open = knownRoutes.filter((route) => mayUse(route, 'GET', null) === 'yes').sort();
    expect(open).to.deep.equal([
      '/a/[token]',
      '/api/[...path]',
      '/calendar/[token]',
      '/confirm/[token]',
      '/first/[token]',
      '/healthz',
      '/join/[token]',
      '/leave/[token]',
      '/metrics',
      '/read/[token]',
      '/readyz',
      '/reset',
      '/reset/[token]',
      '/shared/[token]',
      '/sign-in',
      '/sign-in/back',
      '/sign-in/second-factor',
      '/sign-in/with'
    ]);
    const changed = knownRoutes.filter((route) => mayUse(route, 'POST', null) === 'yes').sort();
    expect(changed).to.deep.equal([
      ...['/a/[token]', '/api/[...path]', '/confirm/[token]', '/first/[token]', '/join/[token]'],
      ...[
        '/leave/[token]',
        '/otlp/v1/logs',
        '/otlp/v1/metrics',
        '/reset',
        '/reset/[token]',
        '/sign-in',
        '/sign-in/second-factor'
      ]
    ]);
    expect(['/otlp/v1/metrics', '/api/v1/receive/csv', '/api/v1/boards', '/sign-in'].filter(takesKey)).to.deep.equal([
      '/otlp/v1/metrics',
      '/api/v1/receive/csv'
    ]);
  });

  it('of the API only schemas, its description, boards and summaries by a link and what takes a key are open to everybody', () => {
    const open = operations.filter(({ right }) => right === 'anybody');
    expect(open.map(nameOf).sort()).to.deep.equal([
      'GET /openapi.json',
      'GET /problems',
      'GET /read/{token}',
      'GET /schemas/alarms',
      'GET /schemas/board',
      'GET /schemas/connector',
      'GET /schemas/on-call',
      'GET /schemas/signal',
      'POST /receive/events',
      'POST /receive/lines',
      'POST /receive/marks',
      'POST /receive/{format}',
      'POST /shared/{token}/queries'
    ]);
  });

  it('a viewer changes nothing, but what is their own and a board that decides by itself', () => {
    const changes = knownRoutes.filter((route) => mayUse(route, 'POST', 'viewer') === 'yes' && !takesKey(route)).sort();
    expect(changes).to.deep.equal([
      '/(app)/boards/[id=number]',
      '/(app)/profile',
      '/a/[token]',
      '/api/[...path]',
      '/confirm/[token]',
      '/first/[token]',
      '/join/[token]',
      '/leave/[token]',
      '/reset',
      '/reset/[token]',
      '/sign-in',
      '/sign-in/second-factor',
      '/sign-out'
    ]);
    const ofViewers = operations.filter(({ right, method }) => right === 'viewer' && method !== 'GET').map(nameOf);
    expect(ofViewers.filter((name) => name.includes('/boards/{id}'))).to.have.length(11); // each asks the board: see boards/permit.ts
    // What is of whoever has signed in, and of nobody else: see workspace/own.ts.
    const isOwn = (name: string) => /\/me(\/|$)/.test(name);
    expect(ofViewers.filter(isOwn)).to.have.length(15);
    const others = ofViewers.filter((name) => !name.includes('/boards/{id}') && !isOwn(name));
    expect(others.sort()).to.deep.equal([
      'POST /accounts/{id}/estimate',
      'POST /bands',
      'POST /budgets/try',
      'POST /calendars',
      'POST /costs/query',
      'POST /event-rules/try',
      'POST /groups/match',
      'POST /growth',
      'POST /line-rules/try',
      'POST /lines/pattern',
      'POST /message-templates/preview',
      'POST /objectives/try',
      'POST /picks',
      'POST /preflight',
      'POST /queries',
      'POST /query',
      'POST /rehearse',
      // An owner restores their own board; the rest needs an editor or an administrator: see removals/resting.ts.
      'POST /removals/{id}/restore',
      // On whose resources somebody acts is a right of its own, whatever their role: see people/act-access.ts.
      'POST /resources/{id}/acts',
      'POST /resources/{id}/foretell',
      // Whoever has the watch swaps it, and subscribes to their own shifts, whatever their role.
      'POST /rotas/{id}/swaps',
      'POST /routes/try',
      'POST /swaps/{id}/{answer}'
    ]);
    expect(mayUse('/(app)/alarms/new', 'GET', 'viewer')).to.equal('no');
    expect(mayUse('/(app)/alarms/new', 'POST', 'editor')).to.equal('yes');
  });

  it('is written down for people, row by row', () => {
    const guide = readFileSync('docs/guides/roles-and-rights.md', 'utf8');
    const written = new Map(
      [...guide.matchAll(/^\| `([^`]+)` +\| (\w+) +\| (\w+) +\| (.*?) *\|$/gm)].map(([, route, read, change, more]) => [
        route as string,
        { read, change, more }
      ])
    );
    expect([...written.keys()].sort()).to.deep.equal([...knownRoutes].sort());
    for (const [route, { read, change, actions = {} }] of Object.entries(accessRows)) {
      const more = Object.entries(actions).map(([name, role]) => `${name}: ${role}`);
      expect(written.get(route), route).to.deep.equal({ read, change, more: more.join(', ') });
    }
    const ofApi = [...guide.matchAll(/^\| `([A-Z]+ \/[^`]+)` +\| (\w+) +\| ([\w-]+) *\|$/gm)].map(([, ...row]) => row);
    expect(ofApi).to.deep.equal(
      operations.map((operation) => [nameOf(operation), operation.right, operation.scope ?? 'none'])
    );
  });

  it('every role is let through as its row says, and nobody by more', () => {
    const ranks = ['anybody', ...roles];
    const may = (needed: string, role: string | null) => ranks.indexOf(needed) <= ranks.indexOf(role ?? 'anybody');
    for (const [route, { read, change, actions = {} }] of Object.entries(accessRows))
      for (const role of [null, ...roles]) {
        expect(mayUse(route, 'GET', role) === 'yes', `${route} ${role} reads`).to.equal(may(read, role));
        for (const method of ['POST', 'PUT', 'PATCH', 'DELETE'])
          expect(mayUse(route, method, role) === 'yes', `${route} ${role} changes`).to.equal(may(change, role));
        for (const [action, needed] of Object.entries(actions))
          expect(mayUse(route, 'POST', role, action) === 'yes', `${route} ${role} ${action}`).to.equal(
            may(needed, role)
          );
      }
  });

  it('a route without a row is closed, also to administrators', () => {
    expect(mayUse('/(app)/later', 'GET', 'administrator')).to.equal('no');
    expect(mayUse('/(app)/later', 'GET', null)).to.equal('sign in');
  });
});

import { expect } from 'chai';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { roles } from '$lib/core/people/rights';
import { accessRows, knownRoutes, mayUse, takesKey } from './access';

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

  it('only signing in, confirming a channel, health, boards by a link and what takes a key are open to everybody', () => {
    const open = knownRoutes.filter((route) => mayUse(route, 'GET', null) === 'yes').sort();
    expect(open).to.deep.equal([
      '/api/v1/schemas/board',
      '/api/v1/schemas/signal',
      '/confirm/[token]',
      '/healthz',
      '/readyz',
      '/shared/[token]',
      '/sign-in'
    ]);
    const changed = knownRoutes.filter((route) => mayUse(route, 'POST', null) === 'yes').sort();
    expect(changed.filter((route) => !takesKey(route))).to.deep.equal([
      '/api/v1/shared/[token]/queries',
      '/confirm/[token]',
      '/sign-in'
    ]);
    expect(changed.filter(takesKey)).to.deep.equal([
      '/api/v1/receive/[format]',
      '/api/v1/receive/marks',
      '/otlp/v1/metrics'
    ]);
  });

  it('a viewer changes nothing, but a board that says so itself', () => {
    const changes = knownRoutes.filter((route) => mayUse(route, 'POST', 'viewer') === 'yes' && !takesKey(route)).sort();
    const ofBoards = (route: string) => route.includes('/boards/[id=number]');
    expect(changes.filter(ofBoards)).to.have.length(9); // each asks the board: see boards/permit.ts
    expect(changes.filter((route) => !ofBoards(route))).to.deep.equal([
      '/api/v1/accounts/[id=number]/estimate',
      '/api/v1/groups/match',
      '/api/v1/picks',
      '/api/v1/queries',
      '/api/v1/query',
      '/api/v1/shared/[token]/queries',
      '/confirm/[token]',
      '/sign-in',
      '/sign-out'
    ]);
    expect(mayUse('/(app)/alarms/new', 'GET', 'viewer')).to.equal('no');
    expect(mayUse('/(app)/alarms/new', 'POST', 'editor')).to.equal('yes');
  });

  it('is written down for people, row by row', () => {
    const guide = readFileSync('docs/guides/who-may-do-what.md', 'utf8');
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

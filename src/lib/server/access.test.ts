import { expect } from 'chai';
import { readdirSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { knownRoutes, mayUse, takesKey } from './access';

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

  it('only signing in, confirming a channel, health and what takes a key are open to everybody', () => {
    const open = knownRoutes.filter((route) => mayUse(route, 'GET', null) === 'yes').sort();
    expect(open).to.deep.equal(['/api/v1/schemas/signal', '/confirm/[token]', '/healthz', '/readyz', '/sign-in']);
    const changed = knownRoutes.filter((route) => mayUse(route, 'POST', null) === 'yes').sort();
    expect(changed.filter((route) => !takesKey(route))).to.deep.equal(['/confirm/[token]', '/sign-in']);
    expect(changed.filter(takesKey)).to.deep.equal(['/api/v1/receive/[format]', '/otlp/v1/metrics']);
  });

  it('a viewer changes nothing', () => {
    const changes = knownRoutes.filter((route) => mayUse(route, 'POST', 'viewer') === 'yes' && !takesKey(route)).sort();
    expect(changes).to.deep.equal([
      '/api/v1/groups/match',
      '/api/v1/picks',
      '/api/v1/queries',
      '/api/v1/query',
      '/confirm/[token]',
      '/sign-in',
      '/sign-out'
    ]);
    expect(mayUse('/(app)/alarms/new', 'GET', 'viewer')).to.equal('no');
    expect(mayUse('/(app)/alarms/new', 'POST', 'editor')).to.equal('yes');
  });

  it('a route without a row is closed, also to administrators', () => {
    expect(mayUse('/(app)/later', 'GET', 'administrator')).to.equal('no');
    expect(mayUse('/(app)/later', 'GET', null)).to.equal('sign in');
  });
});

// A PostgreSQL server for tests: Debian's, on a socket in a folder of its own, gone when the work is done.
import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { chmodSync, existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const home = '/usr/lib/postgresql';
/** PostgreSQL refuses to run as root: then it runs as the user that Debian's package makes. */
const asRoot = process.getuid?.() === 0;
const as = (command, args) => (asRoot ? ['runuser', ['-u', 'postgres', '--', command, ...args]] : [command, args]);

/** The folder of the newest installed server's programs; installs Debian's when there is none and that may be done here. */
function programs() {
  const newest = () =>
    existsSync(home)
      ? readdirSync(home)
          .filter((version) => existsSync(join(home, version, 'bin', 'initdb')))
          .sort((a, b) => Number(b) - Number(a))[0]
      : undefined;
  if (newest() === undefined) {
    console.log('Installing Debian’s PostgreSQL …');
    for (const args of [
      ['update', '-qq'],
      ['install', '-y', '-qq', '--no-install-recommends', 'postgresql']
    ])
      spawnSync('apt-get', args, {
        stdio: ['ignore', 'ignore', 'inherit'],
        env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
      });
  }
  const version = newest();
  if (version === undefined)
    throw new Error('PostgreSQL is missing and could not be installed. Install the package "postgresql".');
  return join(home, version, 'bin');
}

/**
 * Starts a server with an empty cluster, does some work with its address, and ends it.
 *
 * @param work called with the address, such as `postgres://postgres@localhost/postgres?host=/tmp/…`
 */
export async function withPostgres(work) {
  const bin = programs();
  const folder = mkdtempSync(join(tmpdir(), 'bussola-postgres-'));
  chmodSync(folder, 0o777);
  const data = join(folder, 'data');
  const run = (name, args) => {
    const [command, all] = as(join(bin, name), args);
    return execFileSync(command, all, { cwd: folder, stdio: ['ignore', 'ignore', 'inherit'] });
  };
  run('initdb', ['-D', data, '-U', 'postgres', '-A', 'trust', '-E', 'UTF8', '--locale=C']);
  const [command, all] = as(join(bin, 'postgres'), ['-D', data, '-k', folder, '-c', 'listen_addresses=', '-p', '5432']);
  const server = spawn(command, all, { cwd: folder, stdio: 'ignore' });
  const gone = once(server, 'exit');
  try {
    while (!existsSync(join(folder, '.s.PGSQL.5432')) || !answers(bin, folder)) {
      if (server.exitCode !== null) throw new Error(`PostgreSQL ended with ${server.exitCode} before it listened.`);
      await new Promise((next) => setTimeout(next, 100));
    }
    return await work(`postgres://postgres@localhost/postgres?host=${encodeURIComponent(folder)}`);
  } finally {
    run('pg_ctl', ['-D', data, '-m', 'immediate', 'stop']);
    await gone;
    rmSync(folder, { recursive: true, force: true });
  }
}

const answers = (bin, folder) => spawnSync(join(bin, 'pg_isready'), ['-h', folder], { stdio: 'ignore' }).status === 0;

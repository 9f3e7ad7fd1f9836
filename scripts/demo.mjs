// npm run demo: everything from nothing to an address in the browser. Flags: --port, --data DIR, --reset, --seed N, --days N.
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { hostname } from 'node:os';
import { join, resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { applicationArguments, applicationEnvironment } from './application.mjs';
import { ensureBuilt, ensureInstalled, root } from './prepare.mjs';

/** Something the person who started the demo can mend. */
class Mendable extends Error {}

const children = [];
let ending = false;

try {
  await demo(flags());
} catch (error) {
  console.error(error instanceof Mendable ? error.message : error);
  await endAll();
  process.exit(1);
}

async function demo({ port, data, reset, seed, days }) {
  await freePorts([port, port + 1, port + 2, port + 3, port + 4, port + 5]);
  if (reset) resetFolder(data);
  await ensureInstalled();
  await ensureBuilt();

  process.on('SIGINT', end);
  process.on('SIGTERM', end);
  makeFolder(data);
  const standInsUrl = `http://127.0.0.1:${port + 1}`;
  const standIns = start('stand-ins', [
    '--import',
    'tsx',
    'stand-ins/main.ts',
    `--port=${port + 1}`,
    `--smtp-port=${port + 2}`,
    `--issuer-port=${port + 3}`,
    `--secure-port=${port + 4}`,
    `--name-port=${port + 5}`,
    `--seed=${seed}`,
    `--state-file=${join(data, 'stand-ins.json')}`
  ]);

  const origin = `http://localhost:${port}`;
  const app = start('bussola', applicationArguments, {
    ...applicationEnvironment,
    PORT: String(port),
    HOST: '127.0.0.1',
    ORIGIN: origin,
    // Every name that leads to this machine.
    BUSSOLA_ALSO_AT: [`127.0.0.1`, `[::1]`, hostname()].map((name) => `http://${name}:${port}`).join(','),
    // The stand-ins for the providers run on this machine.
    BUSSOLA_REACH: '127.0.0.1',
    BUSSOLA_DATA: data,
    BUSSOLA_SMTP: `smtp://127.0.0.1:${port + 2}`,
    // People are seeded once it has started.
    BUSSOLA_FIRST_LINK: 'none',
    BUSSOLA_ISSUER: `http://127.0.0.1:${port + 3}`,
    BUSSOLA_ISSUER_SECRET: 'corallo-issuer-demo',
    BUSSOLA_ISSUER_NAME: 'Corallo sign-on',
    BUSSOLA_HEARTBEAT: `${standInsUrl}/desk/heartbeat`,
    BUSSOLA_TEXT_GATEWAY: `${standInsUrl}/phone/messages`,
    BUSSOLA_TEXT_TOKEN: 'corallo-text',
    BUSSOLA_HISTORY_DAYS: String(days),
    SHUTDOWN_TIMEOUT: '2'
  });
  // Both start at the same time: neither needs the other to begin.
  const troubles = [failed(standIns, 'The stand-ins'), failed(app, 'Bussola')];
  for (const trouble of troubles) trouble.catch(() => undefined); // later they end because we end them
  const ready = Promise.all([once(standIns.stdout, 'data'), answers(`http://127.0.0.1:${port}/readyz`)]);
  await Promise.race([ready, ...troubles]);
  const seeding = start('seed', [
    '--import',
    'tsx',
    'demo/seed.ts',
    '--workspace',
    `--data=${data}`,
    `--stand-ins=${standInsUrl}`,
    `--days=${days}`
  ]);
  const [code] = await once(seeding, 'exit');
  if (code !== 0) throw new Mendable('The demo data could not be written; the reason stands above.');
  children.splice(children.indexOf(seeding), 1);

  console.log(`
Bussola runs:        ${origin}
Sign in as           kaja (administrator), nerea or ivo (editors), oda (viewer); password: corallo-demo
Levante, Ostro and Maestro (providers):
                     ${standInsUrl}/levante   stress a machine there
                     ${standInsUrl}/ostro
                     ${standInsUrl}/maestro
Inbox of everyone:   ${standInsUrl}/mail      alarms arrive there
Chat, phones, webhooks:
                     ${standInsUrl}/chat      the room #bridge
                     ${standInsUrl}/phone
                     ${standInsUrl}/desk      verifies signatures
Corallo from outside:
                     ${standInsUrl}/front     sites and names that reachability checks look at
Data folder:         ${data}
Stop with Ctrl+C.
`);
  for (const child of children)
    child.once('exit', (exitCode) => {
      if (!ending) {
        console.error(`A part of the demo ended by itself (code ${exitCode}); stopping the rest.`);
        void end();
      }
    });
}

function flags() {
  let values;
  try {
    ({ values } = parseArgs({
      options: {
        port: { type: 'string', default: '4300' },
        data: { type: 'string', default: 'bussola-data' },
        reset: { type: 'boolean', default: false },
        seed: { type: 'string', default: '1' },
        days: { type: 'string', default: '14' }
      }
    }));
  } catch (error) {
    throw new Mendable(`${error.message}\nFlags: --port N, --data DIR, --reset, --seed N, --days N.`);
  }
  const whole = (name, least, most) => {
    const number = Number(values[name]);
    if (!Number.isInteger(number) || number < least || number > most)
      throw new Mendable(`--${name} must be a whole number from ${least} to ${most}, got ${values[name]}.`);
    return number;
  };
  return {
    port: whole('port', 1, 65530),
    data: resolve(values.data),
    reset: values.reset,
    seed: whole('seed', 0, 2 ** 31 - 1),
    days: whole('days', 0, 400)
  };
}

/** Starts one part; it ends when this process does, since its channel to it closes. */
function start(name, args, environment = {}) {
  const child = spawn(process.execPath, args, {
    cwd: root,
    env: { ...process.env, ...environment },
    stdio: ['ignore', name === 'stand-ins' ? 'pipe' : 'inherit', 'inherit', 'ipc']
  });
  children.push(child);
  return child;
}

async function failed(child, name) {
  const [code] = await once(child, 'exit');
  throw new Mendable(ending ? 'Stopped.' : `${name} could not start (code ${code}); the reason stands above.`);
}

async function answers(url) {
  for (;;) {
    try {
      if ((await fetch(url)).ok) return;
    } catch {
      // not listening yet
    }
    await new Promise((next) => setTimeout(next, 100));
  }
}

async function freePorts(ports) {
  for (const port of ports) {
    const server = createServer();
    const problem = await new Promise((settle) => {
      server.once('error', (error) => settle(error.code));
      server.listen(port, '127.0.0.1', () => settle(null));
    });
    server.close();
    if (problem === 'EADDRINUSE')
      throw new Mendable(
        `Port ${port} is in use by another program. Stop that one, or choose another: npm run demo -- --port ${port + 10}`
      );
    if (problem !== null)
      throw new Mendable(`Port ${port} cannot be used (${problem}). Choose another: npm run demo -- --port 4300`);
  }
}

function makeFolder(data) {
  try {
    mkdirSync(data, { recursive: true, mode: 0o700 });
  } catch (error) {
    throw new Mendable(
      `The data folder ${data} cannot be made (${error.code}). Name another: npm run demo -- --data DIR`
    );
  }
}

/** Removes a data folder, but only one that is empty or is ours, and that no running Bussola holds. */
function resetFolder(data) {
  if (!existsSync(data)) return;
  const files = readdirSync(data);
  if (files.length > 0 && !files.includes('version') && !files.includes('database'))
    throw new Mendable(`${data} does not look like a data folder of Bussola; it was left alone.`);
  const lock = join(data, 'lock');
  if (existsSync(lock)) {
    const { pid } = JSON.parse(readFileSync(lock, 'utf8'));
    if (existsSync(`/proc/${pid}`)) throw new Mendable(`${data} is in use by process ${pid}. Stop that one first.`);
  }
  rmSync(data, { recursive: true });
}

async function endAll() {
  ending = true;
  for (const child of [...children].reverse()) {
    if (child.exitCode !== null || child.signalCode !== null) continue;
    const gone = once(child, 'exit');
    child.kill('SIGTERM');
    await gone;
  }
}

async function end() {
  if (ending) return;
  await endAll();
  process.exit(0);
}

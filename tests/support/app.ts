import { gatewayToken } from '../../stand-ins/messaging/phone';
import { issuerClient } from '../../stand-ins/issuer/client';
import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { serveStandIns, type StandIns } from '../../stand-ins/serve';
import { openPool, type Database } from '../../src/lib/server/db/pool';
import { applicationArguments, applicationEnvironment } from '../../scripts/application.mjs';
import { seedDemo } from '../../demo/seed-demo';
import { TestClock } from './clock';
import { until } from './until';
import { layDatabase } from './up-to-date';

/** The built application in a process of its own, with stand-ins and a clock that the test holds. */
export interface RunningApp {
  origin: string;
  data: string;
  clock: TestClock;
  standIns: StandIns;
  process: ChildProcess;
  /** A connection of the test's own to the application's database. */
  db: Database;
  /** Lets minutes pass one by one; each is pulled before the next. */
  live(minutes: number): Promise<void>;
  /** What the application said on its error stream, and what it logged. */
  said: string;
  logged: string;
  /** Ends it, and removes its folder unless another is to start on it. */
  stop(remove?: boolean): Promise<void>;
}

export async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}

/** How the application is started. */
export interface AppOptions {
  /** Days of history that are requested for accounts. */
  days?: number;
  at?: string;
  /** The folder of one that ran before, on whose data it starts. */
  data?: string;
  /** Whether people may sign in by the stand-in of an issuer. */
  issuer?: boolean;
  /** Stand-ins that are there already, and stay when the application ends. */
  standIns?: StandIns;
  /** The clock of an application that ran before on the same data. */
  clock?: TestClock;
  /** The database on a PostgreSQL server that it works on; its own embedded one without. */
  server?: string;
  /** Environment variables besides the usual ones. */
  env?: Record<string, string>;
}

/** Starts the built application and seeds people and channels; with `accounts` also the demo's accounts and alarm. */
export async function startApp({
  accounts = false,
  ...options
}: AppOptions & { accounts?: boolean } = {}): Promise<RunningApp> {
  const app = await launchApp(options);
  try {
    await seeded(app, options, accounts);
    return app;
  } catch (error) {
    await app.stop();
    throw error;
  }
}

/** Starts the built application as it is, on an empty folder or on one that ran before. */
export async function launchApp({
  days = 0,
  at = '2026-05-04T14:00:00Z',
  data: kept,
  issuer = false,
  standIns: given,
  clock: before,
  server,
  env = {}
}: AppOptions = {}): Promise<RunningApp> {
  const data = kept ?? mkdtempSync(join(tmpdir(), 'bussola-app-'));
  const clock = before ?? new TestClock(join(data, 'clock'), at);
  const ports = { port: 0, smtpPort: 0, securePort: 0, namePort: 0, ...(issuer && { issuerPort: 0 }) };
  const standIns = given ?? (await serveStandIns({ ...ports, seed: 1, clockFile: clock.file }));
  const port = await freePort();
  const origin = `http://localhost:${port}`;
  if (kept === undefined && server === undefined) await layDatabase(join(data, 'data'));
  const child = spawn(process.execPath, applicationArguments, {
    env: {
      ...process.env,
      ...applicationEnvironment,
      PORT: String(port),
      HOST: '127.0.0.1',
      ORIGIN: origin,
      BUSSOLA_DATA: join(data, 'data'),
      BUSSOLA_SMTP: `smtp://127.0.0.1:${standIns.smtpPort}`,
      BUSSOLA_TEXT_GATEWAY: `${standIns.url}/phone/messages`,
      BUSSOLA_TEXT_TOKEN: gatewayToken,
      BUSSOLA_CLOCK_FILE: clock.file,
      BUSSOLA_HISTORY_DAYS: String(days),
      BUSSOLA_REACH: '127.0.0.1',
      BUSSOLA_REST_MS: '300',
      BUSSOLA_LINES_MS: '0',
      BUSSOLA_BILLS_MS: '0',
      SHUTDOWN_TIMEOUT: '1',
      ...(server !== undefined && { DATABASE_URL: server }),
      ...(standIns.issuer && {
        BUSSOLA_ISSUER: standIns.issuer.url,
        BUSSOLA_ISSUER_SECRET: issuerClient.secret,
        BUSSOLA_ISSUER_NAME: 'Corallo sign-on'
      }),
      ...env
    },
    stdio: ['ignore', 'pipe', 'pipe']
  });
  const app: RunningApp = {
    origin,
    data,
    clock,
    standIns,
    process: child,
    db: openPool(
      server === undefined
        ? { host: join(data, 'data'), user: 'postgres', database: 'postgres' }
        : { connectionString: server },
      1
    ),
    live: async (minutes) => {
      for (let i = 0; i < minutes; i++) {
        clock.pass(1);
        await until('every pull', async () => {
          const rows = await app.db.rows<{ at: number }>(`select last_pull_at as at
             from collections
             join accounts on accounts.id = account_id
             left join plans using (account_id, service)
             where accounts.provider not in ('derived', 'pushed') and coalesce(plan->>'every', 'PT1M') in ('PT15S', 'PT30S', 'PT1M')`);
          return rows.length > 0 && rows.every((row) => row.at === clock.now());
        });
      }
    },
    said: '',
    logged: '',
    stop: async (remove = true) => {
      await app.db.close();
      if (child.exitCode === null && child.signalCode === null) {
        const gone = once(child, 'exit');
        child.kill('SIGTERM');
        await gone;
      }
      if (given === undefined) await standIns.close();
      if (remove) rmSync(data, { recursive: true, force: true });
    }
  };
  child.stderr.on('data', (part: Buffer) => (app.said += part.toString()));
  child.stdout.on('data', (part: Buffer) => (app.logged += part.toString()));
  try {
    await answering(app, port);
    return app;
  } catch (error) {
    // What does not come about must not stay behind and slow down all that follows.
    await app.stop(kept === undefined);
    throw error;
  }
}

async function answering(app: RunningApp, port: number): Promise<void> {
  await until(
    'the application',
    async () => {
      if (app.process.exitCode !== null || app.process.signalCode !== null)
        throw new Error(`the application ended: ${app.said}`);
      return fetch(`http://127.0.0.1:${port}/readyz`).then(
        (response) => response.ok,
        () => false
      );
    },
    60_000
  );
}

const seeded = (
  { data, standIns, clock }: RunningApp,
  { days = 0, server, env }: AppOptions,
  accounts: boolean
): Promise<void> =>
  seedDemo({
    ...{ data: join(data, 'data'), standIns: standIns.url, days, bare: !accounts, clock },
    ...{ databaseUrl: server, key: env?.['BUSSOLA_KEY'] }
  });

import { routeSchema, type Route } from '../../src/lib/core/notify/route';
import { insertRoute } from '../../src/lib/server/routing/routes';
import { gatewayToken } from '../../stand-ins/messaging/phone';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { AlarmDefinition, State } from '../../src/lib/core/alarm';
import { plainDetails, rule } from './alarm';
import { plainSignal } from '../../src/lib/core/signal';
import { instant, range } from '../../src/lib/core/time';
import { insertAlarm, seriesStates, type Alarm } from '../../src/lib/server/alarms/alarms';
import { type Incident } from '../../src/lib/server/incidents/incidents';
import { incidentsIn } from '../../src/lib/server/incidents/span';
import { configFrom } from '../../src/lib/server/base/config';
import { collectionOf } from '../../src/lib/server/intake/ledger/collections';
import { insertAccount, type Account } from '../../src/lib/server/inventory/accounts';
import { insertEmailChannel } from '../../src/lib/server/notify/channels';
import { confirmChannel } from '../../src/lib/server/notify/channel-confirmation';
import { registered } from '../../src/lib/server/providers/registry';
import { startBussola, type Bussola } from '../../src/lib/server/process/start';
import { serveStandIns, type StandIns } from '../../stand-ins/serve';
import { machines, type LevanteResource } from '../../stand-ins/levante/world';
import { TestClock } from './clock';
import { freshPostgres } from './database';
import { layDatabase } from './up-to-date';
import { until } from './until';

export const seed = 7;

/** A whole Bussola with its engine, and the stand-ins, in this process, on one clock. */
export interface House {
  bussola: Bussola;
  standIns: StandIns;
  clock: TestClock;
  data: string;
}

/**
 * @param makers of providers, besides which there are none
 * @param env what it is started with besides
 */
export function withHouse(makers = registered, env: Readonly<Record<string, string>> = {}): House {
  const fixture = {} as House;
  before(async function () {
    this.timeout(180_000);
    fixture.data = mkdtempSync(join(tmpdir(), 'bussola-house-'));
    fixture.clock = new TestClock(join(fixture.data, 'clock'));
    fixture.standIns = await serveStandIns({
      ...{ port: 0, smtpPort: 0, securePort: 0, namePort: 0 },
      ...{ seed, clockFile: fixture.clock.file }
    });
    const database = await freshPostgres();
    if (database === null) await layDatabase(join(fixture.data, 'data'));
    const config = configFrom({
      ...(database === null ? {} : { DATABASE_URL: database }),
      BUSSOLA_DATA: join(fixture.data, 'data'),
      BUSSOLA_SMTP: `smtp://127.0.0.1:${fixture.standIns.smtpPort}`,
      BUSSOLA_TEXT_GATEWAY: `${fixture.standIns.url}/phone/messages`,
      BUSSOLA_TEXT_TOKEN: gatewayToken,
      BUSSOLA_CLOCK_FILE: fixture.clock.file,
      BUSSOLA_LOG: 'silent',
      BUSSOLA_FIRST_LINK: 'none',
      BUSSOLA_HISTORY_DAYS: '0',
      BUSSOLA_REACH: '127.0.0.1',
      BUSSOLA_REST_MS: '300',
      // Few tests are about lines, and reading them takes time.
      BUSSOLA_LINES_MS: '0',
      BUSSOLA_BILLS_MS: '0',
      ...env,
      ORIGIN: 'https://bussola.example.test'
    });
    const onLoss = (error: Error) => {
      throw error;
    };
    fixture.bussola = await startBussola(config, onLoss, makers);
    await fixture.bussola.store.ready;
  });
  after(async function () {
    this.timeout(90_000);
    await fixture.bussola.close();
    await fixture.standIns.close();
    rmSync(fixture.data, { recursive: true, force: true });
  });
  return fixture;
}

/** Connects an account at the stand-in, with history wanted from an hour back unless said otherwise. */
export async function connect(
  { bussola, standIns, clock }: House,
  name: string,
  changed: Partial<{ provider: string; keyId: string; secret: string; endpoint: string; historyMinutes: number }> = {}
): Promise<Account> {
  return insertAccount(bussola.db, {
    name,
    provider: changed.provider ?? 'levante',
    endpoint: changed.endpoint ?? `${standIns.url}/${changed.provider ?? 'levante'}`,
    keyId: changed.keyId ?? 'LEVK-CORALLO-PROD',
    sealedSecret: bussola.secrets.seal(changed.secret ?? 'demo-only-2f9c61d07be84a35'),
    createdAt: clock.now(),
    createdBy: 'test',
    historyFrom: (clock.now() - (changed.historyMinutes ?? 60) * 60_000) as Account['historyFrom']
  });
}

/** A confirmed e-mail channel. */
export async function confirmedChannel({ bussola, clock }: House, address: string): Promise<number> {
  const channel = await insertEmailChannel(bussola.db, {
    name: address,
    address,
    createdAt: clock.now(),
    createdBy: 'test'
  });
  await confirmChannel(bussola.db, channel.id, clock.now());
  return channel.id;
}

/**
 * A route of an alarm's own that notifies a new confirmed e-mail channel at once, one message for each incident.
 *
 * @param also ids of further channels
 * @returns its id
 */
export async function routeTo(
  house: House,
  address: string,
  more: Partial<Route> = {},
  also: readonly number[] = []
): Promise<number> {
  const channelId = await confirmedChannel(house, address);
  const route = routeSchema.parse({
    name: address,
    when: {},
    steps: [{ after: 0, notify: [channelId, ...also].map((id) => ({ kind: 'channel', channelId: id })) }],
    group: { by: 'incident', wait: 0, atMostEvery: 0 },
    zone: 'UTC',
    ...more
  });
  const { db } = house.bussola;
  const by = { at: house.clock.now(), by: 'test' };
  return (await db.transaction((within) => insertRoute(within, route, 'named', by))).id;
}

export const machineNamed = (name: string): LevanteResource => {
  const found = machines.find((machine) => machine.name === name);
  if (!found) throw new Error(`no machine ${name}`);
  return found;
};

/** An alarm on processor use, 2 of the last 3 minutes above 80 %, of one machine. */
export async function processorAlarm(
  { bussola, clock }: House,
  machine: string,
  changed: Partial<AlarmDefinition> = {}
) {
  const definition: AlarmDefinition = {
    name: 'Processor nearly exhausted',
    signal: plainSignal({
      metric: 'machine.processor.use',
      where: [{ label: 'resource', is: [machine] }],
      statistic: 'avg'
    }),
    rule: rule(2, 3),
    ...plainDetails,
    route: null,
    ...changed
  };
  const alarm = await insertAlarm(bussola.db, definition, 'test', clock.now());
  bussola.changes.tell('definition', { alarmId: alarm.id });
  return alarm;
}

/** Connects the account with most machines, and waits until they have been pulled once. @returns its id */
export async function connectMachines(house: House): Promise<number> {
  const { id } = await connect(house, 'corallo-prod');
  await until('the first pull', async () => (await collectionOf(house.bussola.db, id, 'machines'))?.lastSuccessAt);
  return id;
}

/** Draws all readings of a machine to a value, or silences it with null, for some minutes from now on. */
export function stressMachine(
  { standIns, clock }: House,
  machine: string,
  value: number | null,
  minutes: number
): void {
  const from = clock.now();
  standIns.levante.stress({
    ...{ resource: machineNamed(machine).id, metric: 'all', value, from, until: from + minutes * 60_000 }
  });
}

/** The mails to an address that have arrived. */
export const mailsTo = ({ standIns }: House, address: string) =>
  standIns.mailbox.mails.filter(({ to }) => to.includes(address));

/** Lets minutes pass one by one: a service of an account is pulled before the next begins. */
export async function liveMinutes(
  { bussola, clock }: House,
  accountId: number,
  minutes: number,
  service = 'machines'
): Promise<void> {
  for (let i = 0; i < minutes; i++) {
    clock.pass(1);
    const pulled = async () => (await collectionOf(bussola.db, accountId, service))?.lastPullAt === clock.now();
    await until('the pull', pulled);
  }
}

/** Everything that an alarm ever raised, newest first; also by a clock that was set back since. */
export async function incidentsOfAlarm({ bussola, clock }: House, { id }: Alarm): Promise<Incident[]> {
  const all = range(instant(0), instant(clock.now() + 86_400_000));
  return (await incidentsIn(bussola.db, all)).filter(({ alarmId }) => alarmId === id);
}

/** A house with the machines of an account connected, and what tests of alarms on them say again and again. */
export function withMachines() {
  const house = withHouse();
  let accountId: number;
  before(async function () {
    this.timeout(90_000);
    accountId = await connectMachines(house);
  });
  return {
    house,
    accountId: () => accountId,
    /** The state of the first series of an alarm. */
    stateOf: async ({ id }: Alarm): Promise<State | undefined> => (await seriesStates(house.bussola.db, id))[0]?.state,
    incidentsOf: (alarm: Alarm) => incidentsOfAlarm(house, alarm),
    mailsTo: (address: string) => mailsTo(house, address),
    stress: (machine: string, value: number | null, minutes: number) => stressMachine(house, machine, value, minutes),
    /** Each minute is pulled and judged before the next. */
    live: (minutes: number) => liveMinutes(house, accountId, minutes)
  };
}

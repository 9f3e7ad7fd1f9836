import formbody from '@fastify/formbody';
import fastify from 'fastify';
import { standInClock } from './clock';
import { levante } from './levante/server';
import { metricsOfType, resources } from './levante/world';
import { Mailbox } from './mail/mailbox';
import { mailPages } from './mail/pages';
import { listenForMail } from './mail/smtp';
import { chatPages, makeChat, type Chat } from './messaging/chat';
import { devicePages, makeDevices, type Devices } from './messaging/devices';
import { deskPages, makeDesk, type Desk } from './messaging/desk';
import { makePhone, phonePages, type Phone } from './messaging/phone';
import { makeFront, type Front } from './front/front';
import { listenForNames } from './front/name-server';
import { gatePages } from './gates/gates';
import { grecale, type GrecaleState } from './grecale/grecale';
import { frontPages, listenSecurely } from './front/pages';
import type { Issuer } from './issuer/issuer';
import { issuerPages } from './issuer/pages';
import { families } from './maestro/numbers';
import { maestro } from './maestro/server';
import { clusters } from './maestro/world';
import { ostro } from './ostro/server';
import { measuresOfKind, things } from './ostro/world';
import { controls, type ControlResource } from './world/controls';
import { ProviderState } from './world/state';

export interface StandInOptions {
  /** HTTP port; 0 takes any free one. */
  readonly port: number;
  readonly smtpPort: number;
  /** Where people are signed in; nowhere without it. */
  readonly issuerPort?: number;
  /** Where the sites are served over HTTPS, and where names are answered (UDP); nowhere without it, 0 takes any free one. */
  readonly securePort?: number;
  readonly namePort?: number;
  readonly seed: number;
  readonly clockFile?: string;
  /** What stresses and starts are kept in over a restart: one file for each provider, its name put behind this. */
  readonly stateFile?: string;
}

export interface StandIns {
  readonly url: string;
  readonly smtpPort: number;
  readonly levante: ProviderState;
  readonly ostro: ProviderState;
  readonly maestro: ProviderState;
  readonly grecale: GrecaleState;
  readonly mailbox: Mailbox;
  readonly chat: Chat;
  readonly phone: Phone;
  readonly desk: Desk;
  readonly devices: Devices;
  readonly front: Front;
  /** Null when it was not asked for. */
  readonly issuer: Issuer | null;
  close(): Promise<void>;
}

/**
 * Starts every stand-in on the loopback interface.
 *
 * @throws when a port is in use
 * @example const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 })
 */
export async function serveStandIns({
  port,
  smtpPort,
  issuerPort,
  securePort,
  namePort,
  seed,
  clockFile,
  stateFile
}: StandInOptions): Promise<StandIns> {
  const clock = standInClock(clockFile);
  const stateOf = (name: string) => new ProviderState(clock(), stateFile && `${stateFile}.${name}`);
  const states = { levante: stateOf('levante'), ostro: stateOf('ostro'), maestro: stateOf('maestro') };
  const mailbox = new Mailbox();
  const receivers = { chat: makeChat(), phone: makePhone(), desk: makeDesk(), devices: makeDevices() };
  const app = fastify({ bodyLimit: 2_000_000, forceCloseConnections: true });
  await app.register(formbody);
  await app.register(levante, { seed, clock, state: states.levante });
  await app.register(ostro, { seed, clock, state: states.ostro });
  await app.register(maestro, { seed, clock, state: states.maestro });
  for (const { path, title, list } of controlPages)
    await app.register(controls, { path, title, clock, state: states[path], resources: list });
  await app.register(mailPages, { mailbox });
  await app.register(chatPages, { chat: receivers.chat, clock });
  await app.register(phonePages, { phone: receivers.phone, clock });
  await app.register(deskPages, { desk: receivers.desk, clock });
  const front = makeFront();
  await app.register(frontPages, { front });
  await app.register(gatePages, { seed, clock });
  const grecaleState: GrecaleState = { slowDown: 0 };
  await app.register(grecale, { seed, clock, state: grecaleState });
  await app.register(devicePages, { devices: receivers.devices, clock });
  // It takes a while to be read, and most have no use for it.
  const issuer = issuerPort === undefined ? null : await (await import('./issuer/issuer')).startIssuer(issuerPort);
  if (issuer !== null) await app.register(issuerPages, { behaving: issuer.behaving });
  const url = await app.listen({ port, host: '127.0.0.1' });
  receivers.devices.url = url;
  const smtp = await listenForMail(smtpPort, mailbox, clock);
  const secure = securePort === undefined ? null : await listenSecurely(securePort, front, clock());
  const names = namePort === undefined ? null : await listenForNames(namePort, front);
  const address = smtp.server.address();
  if (address === null || typeof address === 'string') throw new Error('serveStandIns: the mail server has no port');
  return {
    url,
    smtpPort: address.port,
    ...states,
    grecale: grecaleState,
    mailbox,
    ...receivers,
    front,
    issuer,
    close: async () => {
      await issuer?.close();
      await app.close();
      secure?.closeAllConnections();
      secure?.close();
      names?.close();
      await new Promise<void>((resolve) => smtp.close(() => resolve()));
    }
  };
}

const gauges = families.filter(({ type }) => type === 'gauge').map(({ name }) => ({ name, title: name }));

/** Each provider's page of controls: what can be stressed there. */
const controlPages: readonly {
  path: 'levante' | 'ostro' | 'maestro';
  title: string;
  list: readonly ControlResource[];
}[] = [
  {
    path: 'levante',
    title: 'Levante',
    list: resources.map(({ id, name, account, region, type }) => ({
      id,
      name,
      place: `${type}, ${account}, ${region}`,
      metrics: metricsOfType(type)
    }))
  },
  {
    path: 'ostro',
    title: 'Ostro',
    list: things.map(({ uri, title, kind, location }) => ({
      id: uri,
      name: title,
      place: `${kind}, ${location}`,
      metrics: measuresOfKind(kind).map((one) => ({ name: one.measure, title: one.title }))
    }))
  },
  {
    path: 'maestro',
    title: 'Maestro',
    list: clusters.flatMap(({ title, nodes, workloads, gateways }) =>
      [...nodes, ...workloads.map(({ name }) => name), ...gateways].map((id) => ({
        id,
        name: id,
        place: title,
        metrics: gauges
      }))
    )
  }
];

import formbody from '@fastify/formbody';
import fastify from 'fastify';
import { standInClock } from './clock';
import { levante } from './levante/server';
import { LevanteState } from './levante/state';
import { Mailbox } from './mail/mailbox';
import { mailPages } from './mail/pages';
import { listenForMail } from './mail/smtp';

export interface StandInOptions {
  /** HTTP port; 0 takes any free one. */
  readonly port: number;
  readonly smtpPort: number;
  readonly seed: number;
  readonly clockFile?: string;
  /** Where stresses are kept over a restart. */
  readonly stateFile?: string;
}

export interface StandIns {
  readonly url: string;
  readonly smtpPort: number;
  readonly levante: LevanteState;
  readonly mailbox: Mailbox;
  close(): Promise<void>;
}

/**
 * Starts every stand-in on the loopback interface.
 *
 * @throws when a port is in use
 * @example const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 })
 */
export async function serveStandIns({ port, smtpPort, seed, clockFile, stateFile }: StandInOptions): Promise<StandIns> {
  const clock = standInClock(clockFile);
  const state = new LevanteState(stateFile);
  const mailbox = new Mailbox();
  const app = fastify({ bodyLimit: 2_000_000, forceCloseConnections: true });
  await app.register(formbody);
  await app.register(levante, { seed, clock, state });
  await app.register(mailPages, { mailbox });
  const url = await app.listen({ port, host: '127.0.0.1' });
  const smtp = await listenForMail(smtpPort, mailbox, clock);
  const address = smtp.server.address();
  if (address === null || typeof address === 'string') throw new Error('serveStandIns: the mail server has no port');
  return {
    url,
    smtpPort: address.port,
    levante: state,
    mailbox,
    close: async () => {
      await app.close();
      await new Promise<void>((resolve) => smtp.close(() => resolve()));
    }
  };
}

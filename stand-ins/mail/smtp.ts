import { SMTPServer } from 'smtp-server';
import type { StandInClock } from '../clock';
import type { Mailbox } from './mailbox';

/**
 * A mail server that takes whatever comes and puts it into the mailbox. It refuses addresses at `refused.test`, so that failure can be tried.
 *
 * @returns the listening server; `server.close()` ends it
 * @example await listenForMail(4302, mailbox, standInClock())
 */
export function listenForMail(port: number, mailbox: Mailbox, clock: StandInClock): Promise<SMTPServer> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: 5_000_000,
    onRcptTo: ({ address }, _session, callback) =>
      callback(
        address.endsWith('@refused.test') ? Object.assign(new Error('No such mailbox'), { responseCode: 550 }) : null
      ),
    onData: (stream, session, callback) => {
      const recipients = session.envelope.rcptTo.map(({ address }) => address);
      mailbox.receive(stream, recipients, clock()).then(() => callback(null), callback);
    }
  });
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.removeListener('error', reject);
      server.on('error', () => undefined); // a client that vanishes mid-mail is that client's trouble
      resolve(server);
    });
  });
}

import type { Socket } from 'node:net';
import { SMTPServer } from 'smtp-server';
import type { StandInClock } from '../clock';
import type { Mailbox } from './mailbox';

/**
 * A mail server that takes whatever comes and puts it into the mailbox. It refuses addresses at `refused.test`, so that failure can be tried; what else it does, people choose on the page of the inbox.
 *
 * @returns the listening server; `server.close()` ends it
 * @example await listenForMail(4302, mailbox, standInClock())
 */
export function listenForMail(port: number, mailbox: Mailbox, clock: StandInClock): Promise<SMTPServer> {
  const server = new SMTPServer({
    authOptional: true,
    disabledCommands: ['STARTTLS'],
    size: 5_000_000,
    onConnect: (_session, callback) =>
      callback(mailbox.behaving.current === 'down' ? failure(421, 'Closed on purpose') : null),
    onRcptTo: ({ address }, _session, callback) => {
      if (mailbox.behaving.current === 'refuse') return callback(failure(451, 'Refused on purpose'));
      callback(address.endsWith('@refused.test') ? failure(550, 'No such mailbox') : null);
    },
    onData: (stream, session, callback) => {
      const recipients = session.envelope.rcptTo.map(({ address }) => address);
      mailbox.behaving
        .pause()
        .then(() => mailbox.receive(stream, recipients, clock()))
        .then(() => {
          if (mailbox.behaving.current === 'cut') for (const { _socket } of connections) _socket.destroy();
          else callback(null);
        }, callback);
    }
  });
  // Its connections, of which its types say nothing.
  const { connections } = server as unknown as { connections: Set<{ _socket: Socket }> };
  return new Promise((resolve, reject) => {
    server.once('error', reject);
    server.listen(port, '127.0.0.1', () => {
      server.removeListener('error', reject);
      server.on('error', () => undefined); // a client that vanishes mid-mail is that client's trouble
      resolve(server);
    });
  });
}

const failure = (responseCode: number, message: string): Error => Object.assign(new Error(message), { responseCode });

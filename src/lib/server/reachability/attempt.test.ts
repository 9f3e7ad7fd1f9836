import { expect } from 'chai';
import { createServer, type Server, type Socket } from 'node:net';
import { once } from 'node:events';
import { checkSchema, type Attempt } from '../../core/reachability';
import { instant } from '../../core/time';
import { serveStandIns, type StandIns } from '../../../../stand-ins/serve';
import type { FrontBehaviour } from '../../../../stand-ins/front/behaviour';
import { certificateDays, secureName } from '../../../../stand-ins/front/front';
import { systemClock } from '../base/clock';
import { policyOf } from '../providers/port/outbound';
import { attempt } from './attempt';

const now = systemClock.now();
const inside = policyOf(['127.0.0.1']);
const tried = (target: object, { within = 5, policy = inside, at = now } = {}): Promise<Attempt> =>
  attempt(checkSchema.parse({ name: 'a', target, within }), policy, at);

describe('one attempt', () => {
  let standIns: StandIns;
  before(async () => {
    standIns = await serveStandIns({ port: 0, smtpPort: 0, securePort: 0, namePort: 0, seed: 7 });
  });
  after(() => standIns.close());
  const tickets = () => `${standIns.url}/front/sites/tickets`;
  const secure = (more = 'tickets') => `https://127.0.0.1:${standIns.front.ports.secure}/${more}`;
  const named = (name: string, more: object = {}) => ({
    ...{ kind: 'dns', name, server: `127.0.0.1:${standIns.front.ports.names}` },
    ...more
  });
  async function whileIt<Result>(
    part: 'tickets' | 'names',
    behaviour: FrontBehaviour,
    work: () => Promise<Result>
  ): Promise<Result> {
    standIns.front.behaving[part] = behaviour;
    try {
      return await work();
    } finally {
      standIns.front.behaving[part] = 'well';
    }
  }

  describe('by HTTP', () => {
    it('measures each phase, and is good when the status and the words are as expected', async () => {
      const made = await tried({ kind: 'http', url: tickets(), contains: 'like to sail' });
      expect(made).to.include({ problem: null, status: 200, address: '127.0.0.1', certificateUntil: null, at: now });
      expect(Object.keys(made.phases)).to.deep.equal(['connect', 'wait', 'read']);
      const parts = Object.values(made.phases).reduce((sum, ms) => sum + ms, 0);
      expect(made.took).to.be.at.least(parts);
      const byName = await tried({ kind: 'http', url: tickets().replace('127.0.0.1', 'localhost') });
      expect(Object.keys(byName.phases)).to.deep.equal(['name', 'connect', 'wait', 'read']);
    });

    it('says what was not as expected', async () => {
      const problem = async (target: object, more = {}) =>
        (await tried({ kind: 'http', url: tickets(), ...target }, more)).problem;
      const failing = await whileIt('tickets', 'failing', () => problem({}));
      expect(failing).to.equal('Answered 500.');
      expect(await whileIt('tickets', 'failing', () => problem({ statuses: ['5xx'] }))).to.equal(null);
      expect(await whileIt('tickets', 'wrong', () => problem({ contains: 'like to sail' }))).to.equal(
        'The answer (200) does not contain “like to sail”.'
      );
      expect(await whileIt('tickets', 'closed', () => problem({}))).to.match(/^The connection was (broken off|closed)/);
      expect(await whileIt('tickets', 'silent', () => problem({}, { within: 1 }))).to.equal(
        'No answer within 1 s: time ran out while waiting for the answer to begin.'
      );
      expect(await problem({ url: `${standIns.url}/front/tickets/behaviour` })).to.equal('Answered 404.');
      expect(await problem({ method: 'HEAD' })).to.equal(null);
    });

    it('follows no redirect, and says where it leads', async () => {
      const server = createServer((socket) => {
        socket.end('HTTP/1.1 302 Found\r\nlocation: http://169.254.169.254/secrets\r\ncontent-length: 0\r\n\r\n');
      });
      const port = await listening(server);
      expect((await tried({ kind: 'http', url: `http://127.0.0.1:${port}/` })).problem).to.equal(
        'Answered 302, which leads to http://169.254.169.254/secrets; that is not followed.'
      );
      server.close();
    });

    it('reads a quarter of a megabyte at most, and bears what is no HTTP', async () => {
      let sent = 0;
      const endless = createServer((socket) => {
        socket.on('error', () => undefined);
        socket.write('HTTP/1.1 200 OK\r\n\r\n');
        const more = () => {
          while (!socket.destroyed && socket.write('x'.repeat(65_536))) sent += 65_536;
        };
        socket.on('drain', more);
        more();
      });
      const url = `http://127.0.0.1:${await listening(endless)}/`;
      expect((await tried({ kind: 'http', url, contains: 'y' })).problem).to.contain('does not contain');
      expect(sent).to.be.below(20_000_000);
      endless.close();
      const other = createServer((socket) => socket.end('220 mail.example.test ready\r\n'));
      const port = await listening(other);
      expect((await tried({ kind: 'http', url: `http://127.0.0.1:${port}/` })).problem).to.equal(
        'What came is no HTTP answer.'
      );
      other.close();
    });
  });

  describe('over TLS', () => {
    it('says when the certificate expires, also of one that is not trusted', async () => {
      const refused = await tried({ kind: 'http', url: secure() });
      expect(refused.problem).to.equal('The certificate is not trusted: it is signed by itself.');
      const until = (refused.certificateUntil ?? 0) as number;
      expect(Math.round((until - now) / 86_400_000)).to.equal(certificateDays);
      expect(refused.status, 'nothing was asked').to.equal(null);
      const taken = await tried({ kind: 'http', url: secure(), trusted: false });
      expect(taken).to.include({ problem: null, status: 200, certificateUntil: until });
      expect(Object.keys(taken.phases)).to.deep.equal(['connect', 'secure', 'wait', 'read']);
    });

    it('takes no certificate that has expired', async () => {
      const later = instant(now + (certificateDays + 1) * 86_400_000);
      expect((await tried({ kind: 'http', url: secure(), trusted: false }, { at: later })).problem).to.equal(
        'The certificate has expired.'
      );
    });

    it('says when there is no TLS', async () => {
      const url = tickets().replace('http:', 'https:');
      expect((await tried({ kind: 'http', url })).problem).to.match(/^There is no TLS at this port|broken off/);
    });
  });

  describe('by TCP', () => {
    it('is good when a connection comes about, with a handshake where one is wanted', async () => {
      const port = standIns.front.ports.secure ?? 0;
      const plain = await tried({ kind: 'tcp', host: '127.0.0.1', port });
      expect(plain).to.include({ problem: null, certificateUntil: null });
      expect(Object.keys(plain.phases)).to.deep.equal(['connect']);
      const secured = await tried({ kind: 'tcp', host: '127.0.0.1', port, secure: true, trusted: false });
      expect(secured.problem).to.equal(null);
      expect(secured.certificateUntil).to.not.equal(null);
    });

    it('says who refused, and how long nothing came', async () => {
      const server = createServer();
      const port = await listening(server);
      server.close();
      await once(server, 'close');
      expect((await tried({ kind: 'tcp', host: '127.0.0.1', port })).problem).to.equal(
        'The connection was refused by 127.0.0.1.'
      );
      const open: Socket[] = [];
      const mute = createServer((socket) => open.push(socket.resume().on('error', () => undefined)));
      const mutePort = await listening(mute);
      const made = await tried({ kind: 'tcp', host: '127.0.0.1', port: mutePort, secure: true }, { within: 1 });
      expect(made.problem).to.equal('No answer within 1 s: time ran out during the TLS handshake.');
      expect(made.phases.secure).to.be.above(500);
      mute.close();
      for (const socket of open) if (!socket.destroyed) await once(socket, 'close'); // it let go of the connection
    });
  });

  describe('by DNS', () => {
    it('finds records of each kind, and compares them', async () => {
      const answers = async (name: string, record: string) => (await tried(named(name, { record }))).answers;
      expect(await answers(secureName, 'A')).to.deep.equal(['192.0.2.10']);
      expect(await answers(secureName, 'AAAA')).to.deep.equal(['2001:db8::10']);
      expect(await answers('www.corallo.example.test', 'CNAME')).to.deep.equal([secureName]);
      expect(await answers('corallo.example.test', 'MX')).to.deep.equal(['mail.corallo.example.test']);
      expect(await answers('corallo.example.test', 'NS')).to.deep.equal(['ns.corallo.example.test']);
      expect(await answers('corallo.example.test', 'TXT')).to.deep.equal(['harbour=perla']);
      const made = await tried(named(secureName, { is: '192.0.2.10' }));
      expect(made.problem).to.equal(null);
      expect(Object.keys(made.phases)).to.deep.equal(['name']);
    });

    it('says what is wrong', async () => {
      const problem = async (target: object, within = 2) => (await tried(target, { within })).problem;
      expect(await problem(named('gone.corallo.example.test'))).to.equal('There is no such name.');
      expect(await problem(named('timetable.corallo.example.test', { record: 'AAAA' }))).to.equal(
        'The name has no record of this kind.'
      );
      const wrong = await whileIt('names', 'wrong', () => problem(named(secureName, { is: '192.0.2.10' })));
      expect(wrong).to.equal('The answer is 192.0.2.99, not 192.0.2.10.');
      expect(await whileIt('names', 'failing', () => problem(named(secureName)))).to.equal('The name server failed.');
      expect(await whileIt('names', 'silent', () => problem(named(secureName), 1))).to.equal(
        'No answer within 1 s: time ran out while the name was looked up.'
      );
    });
  });

  it('tries the next address of a name when nothing listens at the first', async () => {
    // The name of this machine itself: where it has an IPv6 address as well, nothing listens there.
    const byName = await tried({ kind: 'http', url: tickets().replace('127.0.0.1', 'localhost') });
    expect(byName).to.include({ problem: null, address: '127.0.0.1' });
  });

  it('ends before its time when it is told to', async () => {
    const ending = new AbortController();
    standIns.front.behaving.tickets = 'silent';
    const check = checkSchema.parse({ name: 'a', target: { kind: 'http', url: tickets() }, within: 30 });
    const made = attempt(check, inside, now, ending.signal);
    ending.abort();
    expect((await made).problem).to.not.equal(null);
    standIns.front.behaving.tickets = 'well';
  });

  it('never calls what the policy forbids: not by address, not by name, not a name server', async () => {
    const nowhere = policyOf([]);
    let connections = 0;
    const server = createServer(() => connections++);
    const port = await listening(server);
    for (const target of [
      { kind: 'http', url: `http://127.0.0.1:${port}/` },
      { kind: 'http', url: `http://localhost:${port}/` },
      { kind: 'http', url: `http://[::ffff:127.0.0.1]:${port}/` },
      { kind: 'http', url: `http://2130706433:${port}/` },
      { kind: 'tcp', host: '127.0.0.1', port },
      { kind: 'tcp', host: 'localhost', port },
      named(secureName)
    ])
      expect((await tried(target, { policy: nowhere })).problem, JSON.stringify(target)).to.match(
        /^It was not called: /
      );
    for (const url of ['http://169.254.169.254/', 'http://0.0.0.0/', 'http://[fe80::1]/'])
      expect((await tried({ kind: 'http', url })).problem, 'even where much is named').to.contain('never called');
    expect(connections).to.equal(0);
    server.close();
  });
});

async function listening(server: Server): Promise<number> {
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  return typeof address === 'object' ? (address?.port ?? 0) : 0;
}

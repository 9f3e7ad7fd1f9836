import { execFile, execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { connect as connectPlain, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { connect as connectSecure } from 'node:tls';
import { promisify } from 'node:util';
import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { hour, minute, range, type Instant } from '../../core/time';
import { allDropped } from '../intake/ledger/collections';
import { isRefused, Refusal } from '../../core/problem/problem';
import { makeKey } from '../intake/receive/keys';
import { searchLines } from './ask';
import { startSyslog } from './syslog';

const run = promisify(execFile);
const off = {
  ...{ host: '127.0.0.1', port: null, securePort: null, certificate: null, certificateKey: null, key: null }
};
const framed = (text: string): string => `${Buffer.byteLength(text)} ${text}`;

describe('syslog, as programs send it', () => {
  const house = withHouse();
  const folder = mkdtempSync(join(tmpdir(), 'bussola-syslog-'));
  const [certificate, certificateKey] = [join(folder, 'cert.pem'), join(folder, 'key.pem')];
  let syslog: Awaited<ReturnType<typeof startSyslog>>;
  let [port, securePort] = [0, 0];

  before(async () => {
    const { db, clock } = house.bussola;
    execFileSync(
      'openssl',
      [
        ...['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes', '-days', '2'],
        ...['-subj', '/CN=bussola.example.test', '-keyout', certificateKey, '-out', certificate]
      ],
      { stdio: 'ignore' }
    );
    const { text: key } = await db.transaction((within) =>
      makeKey(within, {
        ...{ name: 'collector', scopes: ['logs'], createdBy: 'a test', createdAt: clock.now(), expiresAt: null },
        ...{ mostSeries: 10, mostBytesADay: 10_000_000 }
      })
    );
    const settings = { host: '127.0.0.1', port: 0, securePort: 0, certificate, certificateKey, key };
    syslog = await startSyslog(house.bussola, settings);
    [port = 0, securePort = 0] = syslog.ports;
  });
  after(async () => {
    await syslog.stop();
    rmSync(folder, { recursive: true });
  });

  async function found(text: string) {
    const now = house.clock.now();
    const asked = { text, range: range((now - hour) as Instant, (now + minute) as Instant), most: 50, step: minute };
    let last = null;
    for await (const progress of searchLines(house.bussola, { ...asked, accounts: null })) last = progress;
    return last?.lines ?? [];
  }
  const arrived = (text: string, count: number) =>
    until(`${count} lines of ${text}`, async () => (await found(text)).length === count);
  const send = (socket: Socket, ...parts: readonly string[]): Promise<void> =>
    new Promise((done, failed) => {
      socket.once('error', failed);
      for (const part of parts) socket.write(part);
      socket.end(done);
    });

  it('arrives from the program of the system with every field', async () => {
    // Its own time is of this machine, the clock of the test is not: so it sends none.
    await run('logger', [
      ...['-n', '127.0.0.1', '-P', String(port), '-T', '--octet-count', '--rfc5424=notime,nohost'],
      ...['--msgid', 'ID47', '--sd-id', 'check@32473', '--sd-param', 'room="4"', '-t', 'warden', '-p', 'local4.notice'],
      'container é ended with 137'
    ]);
    await arrived('ended', 1);
    const [line] = await found('ended');
    expect(line).to.include({
      text: 'container é ended with 137',
      severity: 10,
      stream: 'warden',
      account: 'collector'
    });
    const whole = await house.bussola.logs.logs.line(line?.key ?? '', null);
    expect(whole?.line.fields).to.deep.include({
      'syslog.facility': 20n,
      'syslog.msgid': 'ID47',
      'check@32473.room': '4'
    });
  });

  it('arrives over TLS, in pieces, from many at once, each line once', async () => {
    const ca = readFileSync(certificate);
    await Promise.all(
      Array.from({ length: 20 }, (_, sender) => {
        const options = { host: '127.0.0.1', ca, servername: 'bussola.example.test' };
        const socket =
          sender % 2 === 0
            ? connectSecure({ ...options, port: securePort })
            : connectPlain({ host: '127.0.0.1', port });
        const text = Array.from({ length: 10 }, (_, line) => framed(`<14>1 - n${sender} many - - - many ${line}`)).join(
          ''
        );
        return send(socket, text.slice(0, 40), text.slice(40, 41), text.slice(41));
      })
    );
    await until('200 lines', async () => {
      const tally = await house.bussola.logs.logs.tally(
        {
          ...{ text: 'many', accounts: null, resources: new Map<number, string>(), by: 'host.name', most: 50 },
          range: range((house.clock.now() - hour) as Instant, (house.clock.now() + minute) as Instant)
        },
        5000
      );
      return tally?.count === 200 && tally.values.every(({ count }) => count === 10);
    });
  });

  it('that says no lengths is cut off, and takes nothing else with it', async () => {
    const socket = connectPlain({ host: '127.0.0.1', port });
    const ended = new Promise((done) => socket.once('close', done));
    socket.on('error', () => undefined); // cut off in the midst of writing
    socket.write(`${framed('<14>1 - n1 cut - - - before')}GET / HTTP/1.1\r\n\r\n`);
    await ended;
    await arrived('before', 1);
  });

  it('waits on its way while there is no room', async () => {
    const { disk } = house.bussola;
    const usual = disk.refuseWhenLow.bind(disk);
    let tries = 0;
    disk.refuseWhenLow = () => {
      if (tries++ === 0) throw new Refusal('disk-low', 'no room', 'make some');
    };
    try {
      await send(connectPlain({ host: '127.0.0.1', port }), framed('<14>1 - n1 patient - - - patient'));
      await arrived('patient', 1);
      expect(tries).to.be.above(1);
    } finally {
      disk.refuseWhenLow = usual;
    }
  });

  it('without a key that may send logs is cut off, and not taken', async () => {
    const settings = { ...off, port: 0, key: 'x' };
    const other = await startSyslog(house.bussola, settings);
    const socket = connectPlain({ host: '127.0.0.1', port: other.ports[0] ?? 0 });
    const ended = new Promise((done) => socket.once('close', done));
    socket.write(framed('<14>1 - n1 keyless - - - keyless'));
    await ended;
    await other.stop();
    expect(await found('keyless')).to.deep.equal([]);
  });

  it('beyond what its key may send in a day is counted, not taken', async () => {
    const { db, clock } = house.bussola;
    const { text: key } = await db.transaction((within) =>
      makeKey(within, {
        ...{ name: 'little', scopes: ['logs'], createdBy: 'a test', createdAt: clock.now(), expiresAt: null },
        ...{ mostSeries: 10, mostBytesADay: 60 }
      })
    );
    const other = await startSyslog(house.bussola, { ...off, port: 0, key });
    const to = { host: '127.0.0.1', port: other.ports[0] ?? 0 };
    await send(connectPlain(to), framed('<14>1 - n1 little - - - little one'));
    await arrived('little', 1);
    await send(connectPlain(to), framed('<14>1 - n1 little - - - little two'), framed('<14>1 - n1 little - - - three'));
    await until('the count', async () =>
      (await allDropped(db)).some(({ reason, count }) => reason.includes('may send in a day') && Number(count) === 2)
    );
    await other.stop();
    expect(await found('little')).to.have.length(1);
  });

  it('says at its start what is wrong with a certificate or a port', async () => {
    const taken = { ...off, port: 0, key: 'x' };
    const other = await startSyslog(house.bussola, taken);
    for (const [settings, words] of [
      [{ ...off, securePort: 0 }, 'Syslog over TLS has no certificate.'],
      [{ ...off, securePort: 0, certificate, certificateKey: certificate }, 'The certificate of syslog over TLS'],
      [{ ...off, port: other.ports[0] ?? 0 }, 'Syslog cannot be taken at 127.0.0.1']
    ] as const) {
      let refused: unknown = null;
      await startSyslog(house.bussola, settings).catch((error: unknown) => (refused = error));
      expect(isRefused(refused, 'configuration'), words).to.equal(true);
      expect(String(refused)).to.contain(words);
    }
    await other.stop();
  });
});

import { expect } from 'chai';
import { once } from 'node:events';
import { createServer, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { AddressRanges, plainAddress } from '../../base/address-ranges';
import { refusalIn } from './exchange';
import { addressPolicy, outboundTo, partsOf } from './outbound';

/** Answers a byte now and then, for ever. */
function drip(response: ServerResponse): void {
  const timer = setInterval(() => response.write('.'), 20);
  response.on('close', () => clearInterval(timer));
}

describe('calling addresses that people entered', () => {
  const open = addressPolicy(new AddressRanges([], 'BUSSOLA_REACH'));
  const home = addressPolicy(
    new AddressRanges(['127.0.0.1', '10.0.0.0/8', '169.254.0.0/16', 'fd12::/16'], 'BUSSOLA_REACH')
  );

  it('goes to the world, to networks that are named, and never to what serves a machine alone', () => {
    for (const address of ['192.0.2.7', '8.8.8.8', '2001:db8::1', '172.32.0.1'])
      expect(open(address), address).to.equal(null);
    for (const address of [
      '127.0.0.1',
      '127.9.9.9',
      '10.1.2.3',
      '172.16.0.1',
      '192.168.7.7',
      '100.64.0.1',
      '::1',
      'fd12::1'
    ])
      expect(open(address), address).to.contain('does not name');
    for (const address of ['127.0.0.1', '10.1.2.3', 'fd12::1']) expect(home(address), address).to.equal(null);
    for (const address of [
      '169.254.169.254',
      '169.254.1.1',
      '0.0.0.0',
      '255.255.255.255',
      '224.0.0.1',
      '100.100.100.200',
      'fe80::1',
      '::',
      'fd00:ec0::254',
      'ff02::1'
    ])
      expect(home(address), address).to.contain('never called');
  });

  it('knows an address however it is written', () => {
    for (const address of ['[::ffff:169.254.169.254]', '::ffff:a9fe:a9fe', '0:0:0:0:0:ffff:a9fe:a9fe'])
      expect(home(address), address).to.contain('never called');
    expect(open('::FFFF:7f00:1')).to.contain('does not name');
    expect(home('fe80::1%eth0')).to.contain('never called');
    expect(plainAddress('0:0:0:0:0:0:0:1')).to.equal('::1');
    expect(open('metadata')).to.contain('no address');
  });

  describe('at a real connection', () => {
    let server: Server;
    let port: number;
    before(async () => {
      server = createServer((request, response) => {
        if (request.url === '/drip') return drip(response);
        return request.url === '/away'
          ? response.writeHead(302, { location: `http://127.0.0.1:${port}/` }).end()
          : response.end('inside');
      }).listen(0, '127.0.0.1');
      await once(server, 'listening');
      ({ port } = server.address() as AddressInfo);
    });
    after(() => {
      server.closeAllConnections();
      server.close();
    });
    const failure = async (call: Promise<unknown>): Promise<unknown> =>
      call.then(
        () => null,
        (error: unknown) => error
      );

    it('reaches what is named, by its address and by a name that leads there', async () => {
      const call = outboundTo(['127.0.0.1']);
      expect(await (await call(`http://127.0.0.1:${port}/`)).text()).to.equal('inside');
      expect(await (await call(`http://localhost:${port}/`)).text()).to.equal('inside');
    });

    it('does not reach what is not, by its address, a name, or a number that stands for it', async () => {
      const call = outboundTo([]);
      for (const host of ['127.0.0.1', 'localhost', '2130706433', '0x7f.1', '[::ffff:127.0.0.1]', '169.254.169.254']) {
        const refused = refusalIn(await failure(call(`http://${host}:${port}/`)));
        expect(refused?.message, host).to.match(/^It was not called: /);
      }
    });

    it('ends a body that never does when it is told to, also after the request was collected as garbage', async () => {
      setFlagsFromString('--expose-gc');
      const collect = runInNewContext('gc') as () => void;
      const ending = new AbortController();
      const reason = new Error('enough');
      const response = await outboundTo(['127.0.0.1'])(`http://127.0.0.1:${port}/drip`, { signal: ending.signal });
      let parts = 0;
      const read = (async () => {
        for await (const part of partsOf(response, ending.signal))
          if ((parts += part.byteLength) >= 3) {
            collect();
            setImmediate(() => {
              collect();
              ending.abort(reason);
            });
          }
      })();
      expect(await failure(read)).to.equal(reason);
      expect(parts).to.be.at.least(3);
    });

    it('judges a name at each connection: one that leads elsewhere the second time, or to two places, gains nothing', async () => {
      const answers: string[][] = [['127.0.0.1'], ['127.0.0.2'], ['10.0.0.7', '127.0.0.1'], ['169.254.169.254'], []];
      const asked: string[] = [];
      const call = outboundTo(['127.0.0.1'], (host, _options, done) => {
        asked.push(host);
        done(
          null,
          (answers.shift() ?? []).map((address) => ({ address, family: 4 }))
        );
      });
      const url = `http://changes.example.test:${port}/`;
      const alone = { headers: { connection: 'close' } };
      expect(await (await call(url, alone)).text()).to.equal('inside');
      expect(refusalIn(await failure(call(url, alone)))?.message).to.contain('127.0.0.2 is on this machine');
      expect(await (await call(url, alone)).text(), 'only where it may go').to.equal('inside');
      expect(refusalIn(await failure(call(url, alone)))?.message).to.contain('169.254.169.254 is link-local');
      expect(await failure(call(url, alone))).not.to.equal(null);
      expect(asked).to.have.length(5);
    });

    it('does not follow where it is sent', async () => {
      expect(await failure(outboundTo(['127.0.0.1'])(`http://127.0.0.1:${port}/away`))).to.be.instanceOf(TypeError);
    });
  });
});

import { expect } from 'chai';
import { createSocket, type Socket } from 'node:dgram';
import { serveStandIns, type StandIns } from '../../../../stand-ins/serve';
import { secureName } from '../../../../stand-ins/front/front';
import { addressesOf } from './addresses-of';

const failureOf = (name: string, servers: readonly string[]): Promise<string | undefined> =>
  addressesOf(name, servers).then(
    () => undefined,
    (error: NodeJS.ErrnoException) => error.code
  );

describe('the addresses of a name', () => {
  let standIns: StandIns;
  let mute: Socket;
  const names = () => [`127.0.0.1:${standIns.front.ports.names}`];
  before(async () => {
    standIns = await serveStandIns({ port: 0, smtpPort: 0, namePort: 0, seed: 7 });
    mute = createSocket('udp4');
    await new Promise<void>((resolve) => mute.bind(0, '127.0.0.1', resolve));
  });
  after(async () => {
    mute.close();
    await standIns.close();
  });

  it('are those that name servers know, of both kinds', async () => {
    expect(await addressesOf(secureName, names())).to.deep.equal([
      { address: '192.0.2.10', family: 4 },
      { address: '2001:db8::10', family: 6 }
    ]);
    expect(await addressesOf('timetable.corallo.example.test', names())).to.deep.equal([
      { address: '192.0.2.11', family: 4 }
    ]);
  });

  it('of this machine’s own names are those that it has itself', async () => {
    const found = await addressesOf('localhost', names());
    expect(found.map(({ address }) => address)).to.include('127.0.0.1');
  });

  it('of a name that nobody knows are none', async () => {
    expect(await failureOf('gone.corallo.example.test', names())).to.be.oneOf(['ENOTFOUND', 'EAI_AGAIN']);
  });

  it('whose servers never answer hold no others up', async () => {
    const silent = [`127.0.0.1:${mute.address().port}`];
    const hanging = Array.from({ length: 40 }, (_, index) => failureOf(`n${index}.corallo.example.test`, silent));
    let isHanging = true;
    const all = Promise.all(hanging).finally(() => (isHanging = false));
    expect(await addressesOf(secureName, names())).to.have.length(2);
    expect((await addressesOf('localhost')).length).to.be.above(0);
    expect(isHanging, 'the others are still waiting').to.equal(true);
    expect(new Set(await all)).to.deep.equal(new Set(['ETIMEOUT']));
  }).timeout(90_000);
});

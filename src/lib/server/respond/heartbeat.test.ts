import { expect } from 'chai';
import { pino } from 'pino';
import { serveStandIns } from '../../../../stand-ins/serve';
import { until } from '../../../../tests/support/until';
import { systemClock } from '../base/clock';
import { startHeartbeat } from './heartbeat';

describe('the heartbeat', () => {
  it('comes again and again, says why when it is not taken, and recovers by itself', async () => {
    const standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 });
    const { heartbeats, behaving } = standIns.desk;
    const heartbeat = startHeartbeat({
      ...{ url: `${standIns.url}/desk/heartbeat`, origin: 'https://bussola.example.test', call: fetch },
      ...{ clock: systemClock, log: pino({ level: 'silent' }), every: 20 }
    });
    await until('three beats', () => heartbeats.all.length >= 3);
    expect(heartbeats.all[0]?.source).to.equal('https://bussola.example.test');
    expect(heartbeat.fault()).to.equal(null);
    behaving.current = 'refuse';
    await until('a fault', () => heartbeat.fault() !== null);
    expect(heartbeat.fault()).to.match(/^answered \d\d\d/);
    behaving.current = 'well';
    await until('it is well again', () => heartbeat.fault() === null);
    await heartbeat.stop();
    const { length } = heartbeats.all;
    await until('nothing more after stopping', () => heartbeats.all.length === length);
    await standIns.close();
  }).timeout(60_000);

  it('is sent nowhere when nobody expects it', async () => {
    const heartbeat = startHeartbeat({
      ...{ url: null, origin: '', clock: systemClock, log: pino({ level: 'silent' }), every: 5 },
      call: () => Promise.reject(new Error('it was sent'))
    });
    await heartbeat.stop();
    expect(heartbeat.fault()).to.equal(null);
  });
});

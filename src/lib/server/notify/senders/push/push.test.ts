import { expect } from 'chai';
import webpush from 'web-push';
import { serveStandIns, type StandIns } from '../../../../../../stand-ins/serve';
import { incidentContent } from '../../../../../../tests/support/incidents';
import { outgoing } from '../../../../../../tests/support/outgoing';
import { systemClock } from '../../../base/clock';
import { outboundTo } from '../../../providers/port/outbound';
import { Gone, NotTaken } from '../sender';
import { pushSender } from './push';

describe('notifications to devices', () => {
  let standIns: StandIns;
  const keys = webpush.generateVAPIDKeys();
  const sender = (origin = 'https://bussola.example.test', signing = keys) =>
    pushSender(outboundTo(['127.0.0.1']), () => Promise.resolve(signing), origin);
  before(async () => (standIns = await serveStandIns({ port: 0, smtpPort: 0, seed: 1 })));
  after(() => standIns.close());
  const toDevice = (subscription = standIns.devices.make(), content = incidentContent(7)) => ({
    subscription,
    message: outgoing({
      ...{ key: 'key-1', thread: 'thread-7', at: systemClock.now(), content },
      channel: { kind: 'push', address: 'push…' },
      secret: { subscription }
    })
  });

  it('are decrypted by the device and signed for its push service; what is raised is urgent', async () => {
    const { message } = toDevice();
    const { request, answer } = await sender().send(message);
    const [shown] = standIns.devices.notifications.all;
    expect(shown).to.include({
      title: 'MAJOR booking-web-2: processor use 93.4 % (limit 80 %) since 08:00',
      link: 'https://bussola.example.test/incidents/7',
      urgency: 'high',
      contact: 'https://bussola.example.test'
    });
    expect(answer).to.match(/^201/);
    expect(request, 'people may read what was sent, and no address').to.contain('"title"').and.not.to.contain('/push/');
    await sender().send(toDevice(undefined, incidentContent(7, 'cleared')).message);
    expect(standIns.devices.notifications.all[0]).to.include({ urgency: 'normal' });
  });

  it('have a contact by mail where Bussola has no address with https', async () => {
    await sender('http://localhost:4400').send(toDevice().message);
    expect(standIns.devices.notifications.all[0]).to.include({ contact: 'mailto:bussola@localhost' });
  });

  it('a device that has gone is gone, a service that refuses may take them later', async () => {
    const { message, subscription } = toDevice();
    standIns.devices.behaving.current = 'refuse';
    const refused = await sender()
      .send(message)
      .catch((error: unknown) => error);
    expect(refused).to.be.instanceOf(NotTaken).and.not.to.be.instanceOf(Gone);
    standIns.devices.behaving.current = 'well';
    standIns.devices.lose(subscription.endpoint);
    const gone = await sender()
      .send(message)
      .catch((error: unknown) => error);
    expect(gone).to.be.instanceOf(Gone);
    expect((gone as Gone).message).to.equal(
      'The device no longer takes notifications. Set it up anew in your profile.'
    );
  });

  it('what another device would need to read is not read by this one; another signature is not taken', async () => {
    const { message, subscription } = toDevice();
    const other = standIns.devices.make();
    const mixed = { ...message, secret: { subscription: { ...other, endpoint: subscription.endpoint } } };
    expect(
      await sender()
        .send(mixed)
        .catch((error: unknown) => error)
    ).to.be.instanceOf(NotTaken);
    const { publicKey } = webpush.generateVAPIDKeys();
    const forged = await sender(undefined, { ...keys, publicKey })
      .send(message)
      .catch((error: unknown) => error);
    expect((forged as NotTaken).exchange.answer).to.match(/^403/);
  });
});

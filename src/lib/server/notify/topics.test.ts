import { expect } from 'chai';
import { connectMachines, processorAlarm, withHouse } from '../../../../tests/support/bussola';
import { sealing } from '../../../../tests/support/sealing';
import { until } from '../../../../tests/support/until';
import { rule, threshold } from '../../../../tests/support/alarm';
import { routeSchema } from '../../core/notify/route';
import { addRoute } from '../respond/manage-routes';
import { allChannels, channelById, subscribersOf } from './channels';
import { channelByToken, confirmChannel } from './channel-confirmation';
import { addDevice, devicesOf, removeDevice } from './devices';
import { leaveToken, subscriberOfToken } from './leave-links';
import { addChannel, sendTest } from './manage-channels';
import { addSubscriber, removeSubscriber } from './topics';
import { insertPerson } from '../people/people';

describe('topics and devices', () => {
  const house = withHouse();
  const by = { id: 1, displayName: 'Kaja Tamm' };
  const mailsTo = (address: string) => house.standIns.mailbox.mails.filter(({ to }) => to.includes(address));
  const subscribe = async (topicId: number, address: string) => {
    const made = await addSubscriber(house.bussola, topicId, { kind: 'email', name: address, address }, by);
    const [mail] = await until('the question', () => mailsTo(address).length > 0 && mailsTo(address));
    const token = /\/confirm\/([\w-]+)/.exec(mail!.text)?.[1] ?? '';
    const asked = await channelByToken(house.bussola.db, token, house.clock.now());
    expect(asked?.id).to.equal(made.id);
    await confirmChannel(house.bussola.db, made.id, house.clock.now());
    return { made, mail: mail! };
  };

  it('a topic asks each subscriber, sends to those who agreed, and none once they have left', async () => {
    const { db, secrets } = house.bussola;
    const topic = await addChannel(house.bussola, { kind: 'topic', name: 'operations' }, by);
    expect([topic.confirmedAt, topic.address]).to.deep.equal([null, 'topic operations']);
    const refused = await sendTest(house.bussola, topic.id, by).catch((error: unknown) => error);
    expect(refused, 'nobody is there').to.include({ code: 'not-confirmed' });
    const { made, mail } = await subscribe(topic.id, 'pier@example.test');
    expect(mail.subject).to.equal('Subscribe to "operations" in Bussola?');
    await addSubscriber(house.bussola, topic.id, { kind: 'email', name: 'late', address: 'late@example.test' }, by);
    expect(
      (await allChannels(db)).map(({ name }) => name),
      'subscribers are no channels of their own'
    ).to.deep.equal(['operations']);
    expect((await channelById(db, topic.id))?.confirmedAt).to.equal(house.clock.now());
    await sendTest(house.bussola, topic.id, by);
    const test = await until('the test', () =>
      mailsTo('pier@example.test').find(({ subject }) => subject.startsWith('Test'))
    );
    expect(test.text).to.contain(`/leave/${leaveToken(secrets, made.id)}`);
    expect(test.unsubscribe, 'one click in the mail program').to.contain(leaveToken(secrets, made.id));
    expect(test.oneClick).to.equal('List-Unsubscribe=One-Click');
    expect(mailsTo('late@example.test').filter(({ subject }) => subject.startsWith('Test'))).to.deep.equal([]);
    const twice = await addSubscriber(
      house.bussola,
      topic.id,
      { kind: 'email', name: 'x', address: 'pier@example.test' },
      by
    ).catch((error: unknown) => error);
    expect(twice).to.include({ message: 'pier@example.test subscribes to it already.' });
    await removeSubscriber(house.bussola, topic.id, made.id);
    expect((await subscribersOf(db, topic.id)).map(({ address }) => address)).to.deep.equal(['late@example.test']);
    expect((await channelById(db, topic.id))?.confirmedAt, 'nobody who agreed is left').to.equal(null);
  }).timeout(90_000);

  it('a route that notifies a topic reaches every subscriber of it', async () => {
    await connectMachines(house);
    const topic = await addChannel(house.bussola, { kind: 'topic', name: 'fleet' }, by);
    await subscribe(topic.id, 'one@example.test');
    await subscribe(topic.id, 'two@example.test');
    const { id } = await addRoute(
      house.bussola,
      routeSchema.parse({
        ...{ name: 'To the topic', when: {}, zone: 'UTC', group: { by: 'incident', wait: 0, atMostEvery: 0 } },
        steps: [{ after: 0, notify: [{ kind: 'channel', channelId: topic.id }] }]
      }),
      'named',
      'test'
    );
    const always = rule(1, 1, { levels: [threshold('above', 1)], whenMissing: 'keep' });
    await processorAlarm(house, 'gate-api-2', { route: id, rule: always });
    for (const address of ['one@example.test', 'two@example.test'])
      await until(`the mail to ${address}`, () => mailsTo(address).some(({ subject }) => subject.startsWith('MAJOR')));
    const both = ['one@example.test', 'two@example.test']
      .flatMap(mailsTo)
      .filter(({ subject }) => subject.startsWith('MAJOR'));
    expect(new Set(both.map(({ messageId }) => messageId)).size, 'a message each').to.equal(2);
  }).timeout(180_000);

  it('a link to leave counts for its subscriber alone, and none can be made up', () => {
    const token = leaveToken(sealing, 31);
    expect(subscriberOfToken(sealing, token)).to.equal(31);
    const bytes = Buffer.from(token, 'base64url');
    for (let bit = 0; bit < bytes.length * 8; bit++) {
      const changed = Buffer.from(bytes);
      changed[bit >> 3]! ^= 1 << (bit & 7);
      expect(subscriberOfToken(sealing, changed.toString('base64url'))).to.equal(null);
    }
    for (const guess of ['', 'x', `${token}A`, token.slice(1)])
      expect(subscriberOfToken(sealing, guess)).to.equal(null);
  });

  it('a device shows what a person is notified of, and is marked once it is gone', async () => {
    const { db } = house.bussola;
    const person = await insertPerson(db, {
      name: 'oda',
      displayName: 'Oda Lind',
      role: 'viewer',
      zone: 'UTC',
      passwordHash: '',
      createdAt: house.clock.now()
    });
    const oda = { id: person.id, displayName: 'Oda Lind' };
    const subscription = house.standIns.devices.make();
    const device = await addDevice(house.bussola, oda, 'Phone', subscription);
    const again = await addDevice(house.bussola, oda, 'Old phone', subscription);
    expect(
      (await devicesOf(db, oda.id)).map(({ name }) => name),
      'the same browser is one device'
    ).to.deep.equal(['Oda Lind, Old phone']);
    expect(device.address).to.equal(again.address).and.not.to.contain(subscription.endpoint.split('/').at(-1));
    await sendTest(house.bussola, again.id, by);
    await until('the test', () => house.standIns.devices.notifications.all[0]?.title.startsWith('Test by'));
    house.standIns.devices.lose(subscription.endpoint);
    await sendTest(house.bussola, again.id, by);
    await until('it is marked', async () => (await devicesOf(db, oda.id))[0]?.confirmedAt === null);
    await removeDevice(house.bussola, oda.id, again.id);
    expect(await devicesOf(db, oda.id)).to.deep.equal([]);
    const other = await removeDevice(house.bussola, oda.id, again.id).catch((error: unknown) => error);
    expect(other).to.include({ code: 'not-found' });
  }).timeout(90_000);
});

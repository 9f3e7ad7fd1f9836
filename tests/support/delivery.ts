import { soleDuties } from '../../src/lib/server/duties/duties';
import { pino } from 'pino';
import { instant, type Clock, type Duration } from '../../src/lib/core/time';
import { Changes } from '../../src/lib/server/base/changes';
import { insertAlarm } from '../../src/lib/server/alarms/alarms';
import { insertEmailChannel } from '../../src/lib/server/notify/channels';
import { startDelivery, type Delivery } from '../../src/lib/server/notify/deliver';
import { messageById, type NewMessage } from '../../src/lib/server/notify/outbox';
import type { Outgoing } from '../../src/lib/server/notify/senders/sender';
import { alarm } from './alarm';
import { withDatabase } from './database';
import { openIncident } from './incidents';
import { sealing } from './sealing';

/** A delivery on a database of its own, with a mail channel, an alarm and an open incident for each test, and senders that the test gives. */
export function withDelivery() {
  const fixture = withDatabase();
  let now = 1_777_881_600_000;
  const clock: Clock = { now: () => instant(now) };
  /** Of this test. */
  const ids = { channel: 0, incident: 0 };
  const running: Delivery[] = [];

  const start = async (
    send: (mail: Outgoing) => Promise<void>,
    changes = new Changes(),
    more: { mostAMinute?: () => number } = {}
  ): Promise<Delivery> => {
    const sender = {
      send: async (mail: Outgoing) => {
        await send(mail);
        return { request: `to ${mail.channel.address}`, answer: 'taken' };
      },
      close: () => undefined
    };
    const senders = { email: sender, webhook: sender, 'chat-hook': sender, 'text-message': sender, push: sender };
    const log = pino({ level: 'silent' });
    const origin = 'https://bussola.example.test';
    const delivery = await startDelivery({
      ...{ db: fixture.db, clock, senders, secrets: sealing, changes, log, origin, duties: soleDuties('test') },
      pause: () => 1,
      ...more
    });
    running.push(delivery);
    return delivery;
  };
  const written = (subject: string) => ({ kind: 'written' as const, subject, text: 't' });
  const message = (changed: Partial<NewMessage> = {}): NewMessage => ({
    channelId: ids.channel,
    incidentId: null,
    alarmId: null,
    content: written('s'),
    priority: 1,
    createdAt: clock.now(),
    ...changed
  });
  const newest = async () => {
    const [row] = await fixture.db.rows<{ id: number }>('select max(id) as id from outbox');
    return (await messageById(fixture.db, row?.id ?? 0))!;
  };
  const stateIs = (id: number, state: string) => async () => (await messageById(fixture.db, id))?.state === state;

  beforeEach(async () => {
    await fixture.db.rows('delete from outbox');
    await fixture.db.rows('delete from channels');
    await fixture.db.rows('delete from alarms');
    ids.channel = (
      await insertEmailChannel(fixture.db, {
        name: 'a',
        address: 'a@example.test',
        createdAt: clock.now(),
        createdBy: 'x'
      })
    ).id;
    const { id: alarmId } = await insertAlarm(fixture.db, alarm, 'test', clock.now());
    ids.incident = await openIncident(fixture.db, {
      alarmId,
      key: 'k',
      labels: {},
      seriesId: null,
      accountId: null,
      unit: '%',
      severity: 'major',
      openedAt: clock.now()
    });
  });
  const stopAll = async (): Promise<void> => {
    await Promise.all(running.splice(0).map((delivery) => delivery.stop()));
  };
  afterEach(stopAll);

  return {
    ...{ fixture, clock, ids, start, written, message, newest, stateIs, stopAll },
    /** Lets time pass on the clock of the test. */
    pass: (length: Duration) => (now += length)
  };
}

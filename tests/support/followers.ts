import { confirmChannel } from '../../src/lib/server/notify/channel-confirmation';
import { draftOf, insertChannel } from '../../src/lib/server/notify/channels';
import { outboundTo } from '../../src/lib/server/providers/port/outbound';
import { after as later, type Duration } from '../../src/lib/core/time';
import type { Follower } from '../../src/lib/core/followers';
import type { NewAct } from '../../src/lib/server/audit/acts';
import { Changes } from '../../src/lib/server/base/changes';
import { systemClock } from '../../src/lib/server/base/clock';
import { loggerOf } from '../../src/lib/server/base/logger';
import type { Database } from '../../src/lib/server/db/pool';
import { followerById, type StoredFollower } from '../../src/lib/server/followers/followers';
import { addFollower } from '../../src/lib/server/followers/manage-followers';
import { startSendingChanges } from '../../src/lib/server/followers/send-changes';
import { withDatabase } from './database';
import { Receiver } from './receiver';
import { sealing } from './sealing';
import { until } from './until';

/** An event as a follower gets it. */
export interface SentChange {
  readonly id: string;
  readonly type: string;
  readonly subject?: string;
  readonly data: Record<string, unknown>;
}

/** A database, a program that webhooks post to, and what tests of followers say again and again. Each test begins without followers. */
export function withFollowers() {
  const fixture = withDatabase();
  const receiver = new Receiver();
  let url = '';
  let now = systemClock.now();
  const clock = { now: () => now };
  const running: { stop(): Promise<void> }[] = [];
  let names = 0;

  before(async () => {
    url = await receiver.open();
    // Receivers take no signature that is old, by the clock of the machine.
    now = systemClock.now();
  });
  after(() => receiver.close());
  beforeEach(() => {
    receiver.received.length = 0;
    receiver.answer = 204;
  });
  const stopAll = async (): Promise<void> => {
    for (const one of running.splice(0)) await one.stop();
  };
  afterEach(async () => {
    await stopAll();
    await fixture.db.rows('delete from followers');
  });

  const context = () => ({ db: fixture.db, clock, changes: new Changes() });
  async function webhook(address = `${url}?${++names}`, kind: 'webhook' | 'email' = 'webhook', isConfirmed = true) {
    const draft = draftOf(
      kind === 'email'
        ? { kind, name: 'Mail', address: `n${++names}@example.test` }
        : { kind, name: 'Sync', address, mode: 'structured' }
    );
    const { id } = await insertChannel(fixture.db, sealing, draft, { at: now, by: 'Kaja' });
    if (isConfirmed) await confirmChannel(fixture.db, id, now);
    return { id, secret: draft.secret.secrets?.[0]?.secret ?? '' };
  }
  const following = async (kinds: Follower['kinds'] = [], address?: string) => {
    const { id: channelId, secret } = await webhook(address);
    return { ...(await addFollower(context(), { channelId, kinds, isOn: true }, 'Kaja')), secret };
  };
  function start(db: Database = fixture.db) {
    const parts = {
      ...context(),
      db,
      secrets: sealing,
      log: loggerOf({ logLevel: 'silent', secrets: [] }),
      origin: 'https://b.example.test'
    };
    const sending = startSendingChanges({ ...parts, call: outboundTo(['127.0.0.1']), pause: () => 30 });
    running.push(sending);
    parts.changes.tell('followers', {}); // at once
    return sending;
  }
  const act = (changed: Partial<NewAct> = {}): NewAct => ({
    ...{ at: now, personId: 3, by: 'Nerea Olmo', means: 'person', act: 'PUT /alarms/{id}', what: 'Changes an alarm' },
    ...{ subject: 'Queue too long', path: '/alarms/3', id: 3, outcome: 'done', address: '192.0.2.7' },
    ...changed
  });
  const sent = (): SentChange[] => receiver.received.map(({ body }) => JSON.parse(body) as SentChange);
  const isAt = (one: StoredFollower, what: string, check: (now: StoredFollower) => boolean) =>
    until(what, async () => {
      const found = await followerById(fixture.db, one.id);
      return found !== null && check(found) ? found : null;
    });

  return {
    ...{ fixture, receiver, clock, context, webhook, following, start, stopAll, act, sent, isAt },
    /** Where the receiver is. */
    url: () => url,
    /** Lets time pass on the clock of the test. */
    pass: (length: Duration): void => void (now = later(now, length))
  };
}

import { expect } from 'chai';
import { connect, routeTo, withMachines } from '../../../../tests/support/bussola';
import { storeIncident } from '../../../../tests/support/incidents';
import { after, before as earlier, hour, minute, second, times, type Duration, type Instant } from '../../core/time';
import { incidentById } from '../incidents/incidents';
import { relatedValue } from './related-thread';

describe('the thread that a related incident joins', () => {
  const { house } = withMachines();
  let route = 0;
  let other = 0;
  const noon = () => earlier(house.clock.now(), hour);

  before(async () => {
    route = await routeTo(house, 'one@example.test');
    other = await routeTo(house, 'other@example.test');
  });
  afterEach(async () => {
    await house.bussola.db.rows('delete from incident_threads');
    await house.bussola.db.rows('delete from threads');
    await house.bussola.db.rows('delete from incidents');
  });

  /** An incident on a resource of an account, by its labels, raised so long after noon. */
  const raised = (labels: Record<string, string>, later: number, accountId: number | null = null) =>
    storeIncident(house.bussola.db, after(minuteOf(noon()), later as Duration), { labels, accountId });
  const minuteOf = (at: Instant): Instant => (Math.floor(at / minute) * minute) as Instant;

  async function inThread(incidentId: number, value: string, of = route, isCurrent = true): Promise<void> {
    const { db } = house.bussola;
    const [thread] = await db.rows<{ id: number }>(
      `insert into threads (route_id, value, state)
       values ($1, $2, '{}')
       on conflict (route_id, value) do update set value = excluded.value
       returning id`,
      [of, value]
    );
    await db.rows('insert into incident_threads (incident_id, thread_id, is_current) values ($1, $2, $3)', [
      ...[incidentId, thread!.id, isCurrent]
    ]);
  }
  const joins = async (id: number, of = route) =>
    relatedValue(house.bussola.db, of, (await incidentById(house.bussola.db, id))!, house.clock.now());

  const onDeck = { resource: 'deck-1', account: 'corallo-prod' };
  const onPier = { resource: 'pier-1', account: 'corallo-test' };

  it('is that of one that was raised in the same minute, wherever that is', async () => {
    await inThread(await raised(onDeck, 0), 'first');
    expect(await joins(await raised(onPier, 59 * second))).to.equal('first');
    expect(await joins(await raised(onPier, 60 * second)), 'a second later it is another minute').to.equal(null);
  });

  it('is that of one on the same resource of the same account, however long ago', async () => {
    await inThread(await raised(onDeck, -50 * minute), 'deck');
    expect(await joins(await raised(onDeck, 0))).to.equal('deck');
    expect(await joins(await raised({ ...onDeck, account: 'corallo-test' }, 0)), 'the name alone').to.equal(null);
    expect(await joins(await raised({ ...onDeck, resource: 'deck-2' }, 0)), 'the account alone').to.equal(null);
    expect(await joins(await raised({ resource: 'deck-1' }, 0)), 'without an account').to.equal(null);
  });

  it('is that of one whose account sends nothing', async () => {
    const dark = await connect(house, 'dark', { endpoint: 'https://192.0.2.1/levante' });
    await inThread(await raised({ resource: 'a' }, -20 * minute, dark.id), 'dark');
    expect(await joins(await raised({ resource: 'b' }, 0, dark.id))).to.equal('dark');
    const [lit] = await house.bussola.db.rows<{ id: number }>(
      'select account_id as id from collections where newest_at > $1 limit 1',
      [earlier(house.clock.now(), times(5, minute))]
    );
    await inThread(await raised({ resource: 'a' }, -20 * minute, lit!.id), 'lit');
    expect(await joins(await raised({ resource: 'b' }, 0, lit!.id)), 'one that sends').to.equal(null);
  });

  it('is none of an incident that is over, of another route, that another route took over, or its own', async () => {
    const own = await raised(onDeck, 0);
    await inThread(own, 'own');
    expect(await joins(own)).to.equal(null);
    const over = await raised(onPier, 0);
    await inThread(over, 'over');
    await house.bussola.db.rows('update incidents set closed_at = opened_at where id = $1', [over]);
    const left = await raised({ resource: 'left' }, 0);
    await inThread(left, 'left', route, false);
    expect(await joins(own)).to.equal(null);
    expect(await joins(left, other), 'of another route').to.equal(null);
  });

  it('is the oldest of several', async () => {
    await inThread(await raised({ resource: 'z' }, 0), 'older');
    await inThread(await raised(onDeck, -10 * minute), 'newer');
    expect(await joins(await raised(onDeck, 30 * second))).to.equal('older');
  });
});

import { expect } from 'chai';
import { withDatabase } from '../../../../../tests/support/database';
import type { GroupRule } from '../../../core/group';
import type { Instant } from '../../../core/time';
import { Changes } from '../../base/changes';
import { saveDiscovered } from '../../inventory/resources';
import { groupChoices } from './choices';
import { allGroups, groupById, removeGroup, type Group } from './groups';
import { saveGroup } from './save-group';
import { membersOf } from './members';

const web: GroupRule = { match: 'all', conditions: [{ label: 'resource', matches: '^booking-' }] };
const byTag: GroupRule = {
  match: 'any',
  conditions: [
    { label: 'tag.team', is: ['fares'] },
    { label: 'region', is: ['perla-2'] }
  ]
};

describe('groups', () => {
  const fixture = withDatabase();
  const changes = new Changes();
  let now = 1000;
  const keep = (id: number | null, name: string, rule: GroupRule, by = 'Nerea') =>
    saveGroup({ db: fixture.db, clock: { now: () => now as Instant }, changes }, id, { name, rule }, by);

  before(async () => {
    await fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       values ('corallo-prod', 'levante', 'x', 'x', '', 0, 'x', 0)`
    );
    const found = (name: string, region: string, tags: Record<string, string> = {}) => ({
      ...{ providerId: name, name, type: 'machine', service: 'machines', region, tags },
      ...{ guest: 'none' as const, formerNames: [] }
    });
    await saveDiscovered(
      fixture.db,
      1,
      [
        found('booking-web-1', 'perla-1', { team: 'booking' }),
        found('booking-web-2', 'perla-2'),
        found('fares-primary', 'perla-1', { team: 'fares' }),
        found('quay-display-1', 'perla-3')
      ],
      10 as Instant
    );
  });
  const members = async (rule: GroupRule) => (await membersOf(fixture.db, rule)).map(({ name }) => name);

  it('gather the resources that are there, by name', async () => {
    expect(await members(web)).to.deep.equal(['booking-web-1', 'booking-web-2']);
    expect(await members(byTag)).to.deep.equal(['booking-web-2', 'fares-primary']);
    await fixture.db.rows(`update resources set ended_at = 20 where name = 'booking-web-2'`);
    expect(await members(web)).to.deep.equal(['booking-web-1']);
    await fixture.db.rows('update resources set ended_at = null');
  });

  it('are kept with who changed them and when; alarms hear of it', async () => {
    let heard = 0;
    changes.on('definition', ({ alarmId }) => (heard += alarmId === null ? 1 : 100));
    const made = (await keep(null, 'web', web)) as Group;
    expect(made).to.deep.equal({ id: made.id, name: 'web', rule: web, changedAt: 1000, changedBy: 'Nerea' });
    now = 2000;
    const changed = await keep(made.id, 'booking-web', byTag, 'Ivo');
    expect(changed).to.deep.equal({ id: made.id, name: 'booking-web', rule: byTag, changedAt: 2000, changedBy: 'Ivo' });
    expect(await groupById(fixture.db, made.id)).to.deep.equal(changed);
    expect(heard).to.equal(2);
  });

  it('have names of their own, and one that is gone is not made again', async () => {
    const other = (await keep(null, 'other', web)) as Group;
    expect(await keep(null, 'other', byTag)).to.equal('taken');
    expect(await keep(other.id, 'booking-web', web)).to.equal('taken');
    expect((await groupById(fixture.db, other.id))?.name, 'nothing is lost').to.equal('other');
    await removeGroup(fixture.db, other.id);
    expect(await keep(other.id, 'again', web)).to.equal(null);
    expect((await allGroups(fixture.db)).map(({ name }) => name)).to.deep.equal(['booking-web']);
  });

  it('choose among what resources have, tags last, the most frequent first', async () => {
    const choices = await groupChoices(fixture.db);
    expect(choices.map(({ name }) => name)).to.deep.equal([
      ...['account', 'provider', 'region', 'resource', 'service', 'type', 'tag.team']
    ]);
    const [region] = choices.filter(({ name }) => name === 'region');
    expect(region?.distinct).to.equal(3);
    expect(region?.values[0]).to.deep.equal({ value: 'perla-1', count: 2 });
  });
});

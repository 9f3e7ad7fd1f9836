import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import type { Instant } from '../../core/time';
import type { FoundResource } from '../providers/port/provider';
import { saveDiscovered, resourcesOfAccount } from './resources';

describe('keeping what was found', () => {
  const fixture = withDatabase();
  const found = (providerId: string, name: string): FoundResource => ({
    providerId,
    name,
    type: 'machine',
    service: 'machines',
    region: 'perla-1',
    tags: {},
    guest: 'none',
    formerNames: []
  });
  const kept = async () =>
    (await resourcesOfAccount(fixture.db, 1)).map(({ name, endedAt, formerNames }) => [name, endedAt, formerNames]);

  before(() =>
    fixture.db.rows(
      `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
       values ('one', 'levante', 'x', 'x', '', 0, 'x', 0)`
    )
  );

  it('a resource that is listed twice is one, by the last word', async () => {
    await saveDiscovered(fixture.db, 1, [found('a', 'old'), found('b', 'bay'), found('a', 'anchor')], 10 as Instant);
    expect(await kept()).to.deep.equal([
      ['anchor', null, []],
      ['bay', null, []]
    ]);
  });

  it('renamed it keeps its former name, no longer found it has ended, back again it goes on', async () => {
    await saveDiscovered(fixture.db, 1, [found('a', 'anchorage')], 20 as Instant);
    const renamed = ['anchorage', null, [{ name: 'anchor', until: 20 }]];
    expect(await kept()).to.deep.equal([renamed, ['bay', 20, []]]);
    await saveDiscovered(fixture.db, 1, [found('a', 'anchorage'), found('b', 'bay')], 30 as Instant);
    expect(await kept()).to.deep.equal([renamed, ['bay', null, []]]);
  });
});

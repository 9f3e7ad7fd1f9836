import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident, storeStorm } from '../../../../tests/support/incidents';
import { Changes } from '../base/changes';
import { instant } from '../../core/time';
import type { Queryable } from '../db/pool';
import { OpenNowReader } from './open-now';

describe('incidents that are open, for all who show them', () => {
  const fixture = withDatabase();
  const at = instant(1_777_881_600_000);
  let reads = 0;
  let now = 0;
  const counted: Queryable = {
    rows: (statement, values) => {
      reads++;
      return fixture.db.rows(statement, values);
    }
  };
  const reader = (changes: Changes, most?: number) => new OpenNowReader(counted, changes, most, () => now);
  const readsOf = async (work: () => Promise<unknown>): Promise<number> => {
    reads = 0;
    await work();
    return reads;
  };

  beforeEach(async () => {
    await fixture.db.rows('delete from incidents');
  });

  it('are the most urgent first, and counted by service and severity', async () => {
    const labels = { service: 'queues', resource: 'gate-scan', account: 'corallo-prod' };
    const minor = await storeIncident(fixture.db, at, { severity: 'minor', labels });
    const major = await storeIncident(fixture.db, at, { labels });
    await storeIncident(fixture.db, at, { labels, closedAt: at });
    const { incidents, counts } = await reader(new Changes()).read();
    expect(incidents.map(({ id, resource, account }) => [id, resource, account])).to.deep.equal([
      [major, 'gate-scan', 'corallo-prod'],
      [minor, 'gate-scan', 'corallo-prod']
    ]);
    expect(counts).to.have.deep.members([
      { service: 'queues', severity: 'major', count: 1 },
      { service: 'queues', severity: 'minor', count: 1 }
    ]);
  });

  it('are all counted where more are open than are known one by one', async () => {
    for (let index = 0; index < 5; index++) await storeIncident(fixture.db, at, { labels: { service: 'queues' } });
    const { incidents, counts } = await reader(new Changes(), 3).read();
    expect(incidents).to.have.length(3);
    expect(counts).to.deep.equal([{ service: 'queues', severity: 'major', count: 5 }]);
  });

  it('are read anew each time while they are few', async () => {
    await storeIncident(fixture.db, at);
    const open = reader(new Changes());
    expect(await readsOf(() => open.read())).to.equal(1);
    expect(await readsOf(() => open.read())).to.equal(1);
  });

  it('serve all who ask in a storm, until something changes or a second has passed', async () => {
    const changes = new Changes();
    await storeStorm(fixture.db, null, 300, at, ['major']);
    const open = reader(changes);
    expect(await readsOf(() => Promise.all([open.read(), open.read()])), 'who asks at once').to.equal(1);
    expect(await readsOf(() => open.read())).to.equal(0);
    changes.tell('alarm', { alarmId: 1 });
    expect(await readsOf(() => open.read()), 'a change').to.equal(1);
    now += 999;
    expect(await readsOf(() => open.read())).to.equal(0);
    now += 1;
    expect(await readsOf(() => open.read()), 'a second').to.equal(1);
  });

  it('are read again after a reading failed', async () => {
    let fails = true;
    const failing: Queryable = {
      rows: (statement, values) => (fails ? Promise.reject(new Error('gone')) : fixture.db.rows(statement, values))
    };
    const open = new OpenNowReader(failing, new Changes(), undefined, () => now);
    const refused = await open.read().catch((error: Error) => error.message);
    expect(refused).to.equal('gone');
    fails = false;
    expect((await open.read()).incidents).to.deep.equal([]);
  });
});

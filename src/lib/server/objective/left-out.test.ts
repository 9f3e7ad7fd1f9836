import { expect } from 'chai';
import fc from 'fast-check';
import { withDatabase } from '../../../../tests/support/database';
import { scopeSchema } from '../../core/shelving';
import { hour, instant, range } from '../../core/time';
import type { Series } from '../inventory/series';
import { endShelving, insertShelving } from '../shelving/shelvings';
import { leftOutOf, touchedBy } from './left-out';

describe('what is left out of a promise', () => {
  const fixture = withDatabase();
  const from = instant(Date.UTC(2026, 4, 4));
  const span = range(from, instant(from + 100 * hour));
  const source = (more: object = {}): Series => {
    const labels = {
      ...{ account: 'corallo-prod', provider: 'levante', region: 'perla-1', service: 'databases' },
      ...{ type: 'database', resource: 'ticket-orders', ...more }
    };
    return {
      ...{ id: 1, accountId: 1, resourceId: 1, metric: 'm', service: 'databases', labels },
      conditionLabels: { ...labels, 'tag.team': 'data' },
      ofResource: { ...labels, name: 'ticket-orders' }
    } as unknown as Series;
  };
  const maintain = (scope: object, more: object = {}) =>
    insertShelving(
      fixture.db,
      {
        ...{ kind: 'maintenance' as const, reason: 'new disks', recurs: null, zone: 'UTC' },
        ...{ from: instant(from + 10 * hour), to: instant(from + 12 * hour), ...more },
        scope: scopeSchema.parse(scope)
      },
      { at: from, by: 'Kaja' }
    );
  const spans = async (alarmId: number | null = null, sources = [source()]) =>
    (await leftOutOf(fixture.db, sources, alarmId, span)).map((one) => [
      (one.from - from) / hour,
      (one.to - from) / hour
    ]);
  beforeEach(() => fixture.db.rows('delete from shelvings'));

  it('is maintenance of anything that it is measured on: resource, service, account, tag, label, or its alarm', async () => {
    expect(await spans()).to.deep.equal([]);
    const covering = [
      { resources: ['ticket-orders'] },
      { services: ['databases'] },
      { accounts: ['corallo-prod'] },
      { labels: [{ label: 'team', is: ['data'] }] },
      { labels: [{ label: 'region', is: ['perla-1'] }] },
      // Whatever its severity would be.
      { services: ['databases'], severities: ['minor'] }
    ];
    for (const scope of covering) {
      const { id } = await maintain(scope);
      expect(await spans(), JSON.stringify(scope)).to.deep.equal([[10, 12]]);
      await fixture.db.rows('delete from shelvings where id = $1', [id]);
    }
    for (const scope of [
      { resources: ['another'] },
      { services: ['queues'] },
      { labels: [{ label: 'team', is: ['fleet'] }] },
      { resources: ['ticket-orders'], accounts: ['another'] }
    ])
      await maintain(scope);
    expect(await spans()).to.deep.equal([]);
    await maintain({ alarmIds: [7] });
    expect([await spans(7), await spans(8), await spans(null)]).to.deep.equal([[[10, 12]], [], []]);
    expect(await spans(null, [source(), source({ resource: 'another' })]), 'one of several').to.deep.equal([[10, 12]]);
  });

  it('is no longer left out from when somebody ended it, nor what was shelved without being planned', async () => {
    const { id } = await maintain({ services: ['databases'] });
    await endShelving(fixture.db, id, instant(from + 11 * hour), 'Ivo');
    expect(await spans()).to.deep.equal([[10, 11]]);
    const { id: never } = await maintain(
      { services: ['databases'] },
      { from: instant(from + 20 * hour), to: instant(from + 22 * hour) }
    );
    await endShelving(fixture.db, never, instant(from + 15 * hour), 'Ivo');
    await maintain({ services: ['databases'] }, { kind: 'shelved' });
    expect(await spans()).to.deep.equal([[10, 11]]);
  });

  it('is each occurrence of what recurs, as far as it touches the span', async () => {
    await maintain(
      { services: ['databases'] },
      { from: instant(from - hour), to: instant(from + hour), recurs: 'FREQ=DAILY' }
    );
    expect(await spans()).to.deep.equal([0, 24, 48, 72, 96].map((at) => [at - 1, at + 1]));
  });

  it('touches the cells that a slow look at each span touches', () => {
    const aSpan = fc
      .tuple(fc.integer({ min: 0, max: 300 }), fc.integer({ min: 1, max: 60 }))
      .map(([begin, length]) => range(instant(begin), instant(begin + length)));
    fc.assert(
      fc.property(fc.array(aSpan, { maxLength: 12 }), fc.integer({ min: 1, max: 30 }), (all, step) => {
        const sorted = all.toSorted((a, b) => a.from - b.from);
        const touches = touchedBy(sorted, step);
        for (let start = 0; start < 400; start += step) {
          const slow = all.some((one) => one.from < start + step && one.to > start);
          expect(touches(instant(start)), `${start}`).to.equal(slow);
        }
      })
    );
  });
});

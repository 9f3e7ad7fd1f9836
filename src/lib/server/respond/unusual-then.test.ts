import { expect } from 'chai';
import { connectMachines, withHouse } from '../../../../tests/support/bussola';
import { day, gridOver, hour, instant, minute, type Instant } from '../../core/time';
import type { Worked } from '../../core/signal';
import type { Incident } from '../incidents/incidents';
import type { AskedWork } from '../query/signals/work';
import { unusualThen } from './unusual-then';

const step = 5 * minute;

describe('what was most unusual when an incident was raised', () => {
  const house = withHouse();
  let openedAt: Instant;
  const asked: AskedWork[] = [];

  before(async function () {
    this.timeout(90_000);
    await connectMachines(house);
    openedAt = instant(Math.floor(house.clock.now() / step) * step);
  });

  const incident = (more: Partial<Incident> = {}): Incident =>
    ({
      id: 1,
      account: 'corallo-prod',
      resource: 'booking-web-2',
      metric: 'machine.processor.use',
      openedAt,
      ...more
    }) as Incident;
  /** Values of a metric on a resource by the time of each cell: as usual 10 by day and 4 by night, unless a test says otherwise. */
  type Values = (metric: string, resource: string, at: number) => number;
  const usual = (at: number): number => (new Date(at).getUTCHours() >= 8 ? 10 : 4);
  const evaluatorOf = (values: Values) => ({
    evaluateAll: (works: readonly AskedWork[]): Promise<Worked[]> => {
      asked.splice(0, asked.length, ...works);
      return Promise.resolve(
        works.map(({ work, span }): Worked => {
          const grid = gridOver(span, step as never, 'UTC');
          const pick = work.signal.rows[0] as { metric: string };
          const resources = new Set((work.sources['a'] ?? []).map(({ labels }) => labels['resource'] ?? ''));
          const columns = [...resources].map((resource) => ({
            labels: { resource, account: 'corallo-prod' },
            values: Float64Array.from({ length: grid.count }, (_, cell) =>
              values(pick.metric, resource, grid.start + cell * step)
            )
          }));
          return { kind: 'worked', grid, effort: {}, notes: [], rows: [{ name: 'a', unit: '%', columns }] } as never;
        })
      );
    }
  });
  const found = (values: Values, at = house.clock.now(), more: Partial<Incident> = {}) =>
    unusualThen({ db: house.bussola.db, evaluator: evaluatorOf(values) }, incident(more), at);
  const later = () => instant(openedAt + hour);
  const isThen = (at: number): boolean => at >= openedAt - 10 * minute;

  it('is compared with the same hours of the seven days before, so that a night is no news', async () => {
    const { unusual, compared } = await found((_metric, _resource, at) => usual(at), later());
    expect(unusual).to.deep.equal([]);
    expect(compared).to.be.above(5);
    const [{ span } = asked[0] as AskedWork] = asked;
    expect([span.from, span.to - openedAt]).to.deep.equal([openedAt - 7 * day - hour, 20 * minute]);
  });

  it('has what is farthest from usual first, on the resource itself before its neighbours, and not what the alarm watches', async () => {
    const { unusual } = await found((metric, resource, at) => {
      if (!isThen(at)) return usual(at);
      if (metric === 'machine.processor.use') return resource === 'booking-web-2' ? 99 : 60;
      if (metric === 'machine.network.in' && resource === 'booking-web-2') return 60;
      return usual(at);
    }, later());
    expect(unusual.length).to.be.within(2, 6);
    expect(unusual[0]).to.include({ resource: 'booking-web-2', metric: 'machine.network.in' });
    const rest = unusual.slice(1);
    expect(
      rest.every(({ metric, resource }) => metric === 'machine.processor.use' && resource !== 'booking-web-2')
    ).to.equal(true);
    expect(unusual.map(({ distance }) => distance > 3)).to.not.include(false);
    expect(unusual[0]?.values.length, 'two hours before it, and what followed').to.equal(24 + 4);
  });

  it('what fell silent is unusual, unless it always comes later than that', async () => {
    const silent: Values = (metric, resource, at) =>
      metric === 'machine.network.in' && resource === 'booking-web-2' && isThen(at) ? NaN : usual(at);
    const { unusual } = await found(silent, later());
    expect(unusual).to.have.length(1);
    expect(unusual[0]).to.include({ metric: 'machine.network.in', text: 'no data', value: null });
    await house.bussola.db.rows(`update metrics set delay_ms = $1 where name = 'machine.network.in'`, [3 * hour]);
    const late = await found(silent, later());
    await house.bussola.db.rows(`update metrics set delay_ms = 60000 where name = 'machine.network.in'`);
    expect([late.unusual, late.tooYoung > 0]).to.deep.equal([[], true]);
  });

  it('says nothing of what has too little history, of no resource, and of one that is not here', async () => {
    const young = await found((_metric, _resource, at) => (at > openedAt - hour ? 5 : NaN), later());
    expect([young.unusual, young.compared]).to.deep.equal([[], 0]);
    expect(young.tooYoung).to.be.above(5);
    for (const resource of ['', 'gone-for-long'])
      expect(await found(() => 1, later(), { resource })).to.deep.equal({ unusual: [], compared: 0, tooYoung: 0 });
  });
});

import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { objectiveMetrics, objectiveSchema, objectiveStep, type Objective } from '../../core/objective';
import { Refusal } from '../../core/problem/problem';
import { plainSignal } from '../../core/signal';
import { before as earlier, day, hour, instant, minute, times, type Instant } from '../../core/time';
import { Changes } from '../base/changes';
import { ObjectiveMeasures } from './measure-objectives';
import type { CountedOf } from './objective-counts';
import { objectives } from './objectives';

const signal = (metric: string) => plainSignal({ metric, statistic: 'sum', step: 'PT5M' });
const promise = (name: string, more: object = {}): Objective =>
  objectiveSchema.parse({
    ...{ name, targetPercent: 99, period: { kind: 'rolling', days: 1 } },
    of: { kind: 'share', good: signal(`${name}.good`), all: signal(`${name}.all`) },
    levels: [{ severity: 'minor', rate: 2, longMinutes: 60, shortMinutes: 5 }],
    ...more
  });

describe('what is measured of promises', () => {
  const fixture = withDatabase();
  const start = instant(Date.UTC(2026, 4, 4));
  let now: Instant;
  let asked: { readonly name: string; readonly from: Instant }[];
  let told: number;
  let logged: unknown[];
  let broken: Error | null;
  const worker = () => {
    const changes = new Changes();
    changes.on('objectives', () => told++);
    return { db: fixture.db, changes, log: { error: (...said: unknown[]) => logged.push(said[1]) } as never };
  };
  /** All is good, up to the last whole cell. */
  const counts = {
    now: () => now,
    counted: (of: Objective['of'], from: Instant): Promise<CountedOf> => {
      const name = of.kind === 'share' ? (of.all.rows[0] as { metric: string }).metric : '';
      if (broken !== null && name.startsWith('broken')) return Promise.reject(broken);
      asked.push({ name, from });
      const begin = instant(Math.floor(from / objectiveStep) * objectiveStep);
      const count = Math.floor((now - begin) / objectiveStep);
      const cells = () => new Float64Array(count).fill(100);
      return Promise.resolve({
        grid: { start: begin, step: objectiveStep, count },
        good: cells(),
        all: cells(),
        sources: []
      });
    }
  };
  /** Of thirty days back from within a cell: those that began in them. */
  const wholeCells = (30 * day) / objectiveStep - 1;
  /** What is given a minute later, once all is counted. */
  const measure = async (measures: ObjectiveMeasures, isStored = true) => {
    const given = await measures.measure(worker());
    if (isStored) measures.stored();
    await measures.settled();
    now = instant(now + minute);
    return given;
  };
  const lengths = ({ series }: { series: readonly { metric: string; points: { at: Float64Array } }[] }) =>
    series.map(({ metric, points }) => [metric, points.at.length]);

  beforeEach(async () => {
    [now, asked, told, logged, broken] = [start, [], 0, [], null];
    await fixture.db.rows('delete from objectives');
  });
  const add = (value: Objective) =>
    objectives.insert(fixture.db, { ...value, levels: value.levels }, { at: start, by: 'test' });

  it('reaches back thirty days at first, and then two hours, as far as its cells are complete', async () => {
    await add(promise('sales'));
    const measures = new ObjectiveMeasures(counts);
    expect(lengths(await measure(measures)), 'counted beside it').to.deep.equal([]);
    const cells = (30 * day) / objectiveStep;
    expect(lengths(await measure(measures))).to.deep.equal([
      [objectiveMetrics.left, cells],
      [objectiveMetrics.share, cells],
      [objectiveMetrics.pace, cells]
    ]);
    expect(asked[0]?.from, 'its period before that').to.equal(start - 31 * day);
    now = instant(start + 5 * minute);
    await measure(measures);
    expect(lengths(await measure(measures))[0]).to.deep.equal([objectiveMetrics.left, (2 * hour) / objectiveStep + 1]);
    expect(told, 'once when it is new, and once for the cell').to.equal(2);
  });

  it('looks back as far as the longest span of a level, where that is longer than the period', async () => {
    const levels = [{ severity: 'minor', rate: 2, longMinutes: 3 * 24 * 60, shortMinutes: 5 }];
    await add(promise('sales', { levels }));
    await measure(new ObjectiveMeasures(counts));
    expect(asked[0]?.from).to.equal(earlier(start, times(33, day)));
  });

  it('begins anew where the promise is another, has no pace without levels, and is a resource while it is on', async () => {
    const made = await add(promise('sales'));
    const measures = new ObjectiveMeasures(counts);
    for (let round = 0; round < 3; round++) await measure(measures);
    const context = { db: fixture.db, clock: { now: () => now }, changes: new Changes() };
    const changed = await objectives.save(context, made.id, 1, promise('sales', { levels: [] }), 'test');
    await measure(measures);
    const { resources, ...given } = await measure(measures);
    expect(lengths(given).map(([metric]) => metric)).to.deep.equal([objectiveMetrics.left, objectiveMetrics.share]);
    expect(lengths(given)[0]?.[1]).to.equal(wholeCells);
    expect(resources).to.deep.equal([
      {
        ...{ providerId: `promise/${made.id}`, name: 'sales', type: 'promise', service: 'objectives', region: '' },
        ...{ tags: { promise: String(made.id) }, guest: 'none', formerNames: [] }
      }
    ]);
    await objectives.save(context, made.id, changed.version, promise('sales', { enabled: false, levels: [] }), 'test');
    expect(await measure(measures)).to.deep.include({ resources: [] });
  });

  it('that could not be stored is measured once more, with all its history', async () => {
    await add(promise('sales'));
    const measures = new ObjectiveMeasures(counts);
    await measure(measures);
    expect(lengths(await measure(measures, false))[0]?.[1]).to.equal((30 * day) / objectiveStep);
    await measure(measures);
    expect(lengths(await measure(measures))[0]?.[1], 'again').to.equal(wholeCells);
    expect(lengths(await measure(measures))[0]?.[1], 'stored now').to.equal((2 * hour) / objectiveStep);
  });

  it('costs others nothing where one cannot be counted; what is no fault of its signals is logged', async () => {
    for (const name of ['broken', 'sales']) await add(promise(name));
    const measures = new ObjectiveMeasures(counts);
    broken = new Refusal('unknown-metric', 'There is no metric named x.', 'Look for it.');
    await measure(measures);
    expect(lengths(await measure(measures))).to.have.length(3);
    expect(logged).to.deep.equal([]);
    broken = new Error('lost');
    await measure(measures);
    expect(lengths(await measure(measures))).to.have.length(3);
    expect(logged).to.deep.equal(['a promise could not be counted', 'a promise could not be counted']);
  });
});

import { expect } from 'chai';
import { connect, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import type { QueryAnswer } from '../../../core/series';
import { derivedSchema, plainSignal, signalSchema, type Signal } from '../../../core/signal';
import { before as earlier, hour, textFromInstant, times } from '../../../core/time';
import { collectionOf } from '../../intake/ledger/collections';
import { answerQuery, querySchema } from '../query';
import { allDerived, askBackfill, derivedById, removeDerived, switchDerived, type Derived } from './derived';
import { usesOfMetric } from '../../boards/signal-uses';
import { makeDerived } from './make-derived';

describe('a derived metric', () => {
  const house = withHouse();
  const shares = signalSchema.parse({
    version: 2,
    step: 'PT1M',
    rows: [
      {
        name: 'here',
        metric: 'machine.network.out',
        statistic: 'avg',
        combine: { statistic: 'sum', by: ['region'] }
      },
      { name: 'all', metric: 'machine.network.out', statistic: 'avg', combine: { statistic: 'sum', by: [] } },
      { name: 'share', formula: 'here / all' }
    ],
    unit: '%'
  });
  let made: Derived;
  const known = async () => (await derivedById(house.bussola.db, made.id)) as Derived;
  const answer = async (signal: Signal): Promise<QueryAnswer> => {
    const now = house.clock.now();
    const query = { signal, from: textFromInstant(earlier(now, times(2, hour))), to: textFromInstant(now) };
    const bytes = await answerQuery(house.bussola, querySchema.parse(query));
    return JSON.parse(Buffer.from(bytes).toString('utf8')) as QueryAnswer;
  };
  /** Values by region and instant. */
  const valuesOf = ({ series, start, step }: QueryAnswer, label: string): Map<string, number> =>
    new Map(
      series.flatMap(({ labels, values }) =>
        [...values].flatMap((value, cell): [string, number][] =>
          value === null ? [] : [[`${labels[label] ?? ''} ${start + cell * step}`, value]]
        )
      )
    );

  before(async () => {
    const { id } = await connect(house, 'corallo-prod');
    await until('the first pull', async () => (await collectionOf(house.bussola.db, id, 'machines'))?.lastSuccessAt);
  });

  it('is one row on a fixed step, never the highest of a range, and does not feed on itself', async () => {
    const problem = (signal: object) => derivedSchema.safeParse({ name: 'x', signal }).error?.issues[0]?.path.join('.');
    expect(problem(shares)).to.equal(undefined);
    expect(problem({ ...shares, step: 'auto' })).to.equal('signal.step');
    expect(problem({ ...shares, show: ['here', 'all'] })).to.equal('signal.show');
    expect(problem({ ...shares, limit: { keep: 2, order: 'highest', by: 'avg', rest: 'sum' } })).to.equal(
      'signal.limit'
    );
    const feeding = plainSignal({ metric: 'derived.*', statistic: 'avg' });
    const error = await makeDerived(house.bussola, { name: 'Circle', signal: feeding }, 'test', 0).catch(
      (refused: unknown) => refused
    );
    expect((error as Error).message).to.equal('The metric would be computed from itself: a row picks derived.circle.');
  });

  it('is worked out as cells become complete, and stored with labels that say where it is from', async () => {
    made = await makeDerived(house.bussola, { name: 'Share of traffic', signal: shares }, 'test', 0);
    await until('the first cell', async () => (await known()).computedUntil);
    for (let minute = 0; minute < 5; minute++) {
      const before = (await known()).computedUntil;
      house.clock.pass(1);
      await until('the next cell', async () => (await known()).computedUntil !== before);
    }
    const stored = await answer(plainSignal({ metric: 'derived.share-of-traffic', statistic: 'last' }));
    expect(stored.rows[0]?.unit).to.equal('%');
    expect(stored.series.length).to.be.above(1);
    const direct = valuesOf(await answer(shares), 'region');
    const kept = valuesOf(stored, 'of_region');
    expect(kept.size).to.be.at.least(5 * stored.series.length);
    for (const [key, value] of kept) expect(value, key).to.equal(direct.get(key));
    expect((await known()).points).to.equal(kept.size);
  });

  it('is worked out over stored history on request', async () => {
    const now = house.clock.now();
    await askBackfill(house.bussola.db, made.id, earlier(now, hour), now);
    await until('the past', async () => {
      house.clock.pass(0.3);
      return (await known()).backfillUntil === null;
    });
    const direct = valuesOf(await answer(shares), 'region');
    const kept = valuesOf(
      await answer(plainSignal({ metric: 'derived.share-of-traffic', statistic: 'last' })),
      'of_region'
    );
    expect(kept.size).to.be.at.least(50 * 2);
    for (const [key, value] of kept) expect(value, key).to.equal(direct.get(key));
  });

  it('rests while switched off, says why it cannot be worked out, and goes with its definition only', async () => {
    const { db } = house.bussola;
    await switchDerived(db, made.id, false);
    const other = await makeDerived(
      house.bussola,
      { name: 'Busy', signal: plainSignal({ metric: 'machine.processor.use', statistic: 'max' }) },
      'test',
      0
    );
    const busy = async () => (await derivedById(db, other.id)) as Derived;
    await until('the other one', async () => (await busy()).computedUntil);
    const [{ computedUntil }, { computedUntil: busyUntil }] = [await known(), await busy()];
    house.clock.pass(2);
    await until('the other one again', async () => (await busy()).computedUntil !== busyUntil);
    expect((await known()).computedUntil).to.equal(computedUntil);
    await db.rows(
      `update derived set definition = jsonb_set(definition, '{rows,0,metric}', '"gone.metric"') where id = $1`,
      [other.id]
    );
    await until('its trouble', async () => {
      house.clock.pass(0.3);
      return (await busy()).lastError?.message === 'There is no metric named gone.metric.';
    });
    expect((await usesOfMetric(db, 'machine.network.out')).map(({ kind, name }) => `${kind} ${name}`)).to.deep.equal([
      'derived metric Share of traffic'
    ]);
    await removeDerived(db, made.id);
    expect((await allDerived(db)).map(({ name }) => name)).to.deep.equal(['Busy']);
    const stored = await answer(plainSignal({ metric: 'derived.share-of-traffic', statistic: 'last' }));
    expect(stored.series.some(({ values }) => values.some((value) => value !== null))).to.equal(true);
  });
});

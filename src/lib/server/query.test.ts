import { expect } from 'chai';
import { parse } from 'csv-parse/sync';
import { connect, withHouse } from '../../../tests/support/bussola';
import { until } from '../../../tests/support/until';
import type { QueryAnswer } from '../core/series';
import { before as earlier, day, duration, hour, instant, textFromInstant, times, type Duration } from '../core/time';
import { draftAlarm } from './alarms/draft';
import { collectionOf } from './intake/collections';
import { answerQuery, querySchema } from './query';
import { Refusal } from './refusal';
import { frameCsv } from './store/frame-csv';

describe('a query', () => {
  const house = withHouse();
  const signal = {
    version: 1 as const,
    metric: 'machine.processor.use',
    where: [],
    step: 'PT1M',
    statistic: 'avg' as const
  };
  const over = (length: Duration, more = {}) => ({
    signal,
    from: textFromInstant(earlier(house.clock.now(), length)),
    to: textFromInstant(house.clock.now()),
    ...more
  });
  const answer = async (query: unknown) =>
    JSON.parse(Buffer.from(await answerQuery(house.bussola, querySchema.parse(query))).toString('utf8')) as QueryAnswer;

  before(async () => {
    const { id } = await connect(house, 'corallo-prod');
    await until('the first pull', async () => (await collectionOf(house.bussola.db, id, 'machines'))?.lastSuccessAt);
  });

  it('gives columns by resource name, with who they are and gaps as null', async () => {
    const { series, step, count, start } = await answer(over(times(2, hour)));
    expect(series).to.have.length(10);
    expect(series[0]).to.deep.include({ resource: 'booking-web-1', account: 'corallo-prod', region: 'perla-1' });
    expect([step, count, start % 60_000]).to.deep.equal([60_000, 120, 0]);
    expect(series[0]!.values.slice(0, 59).every((value) => value === null)).to.equal(true);
    expect(
      series[0]!.values.slice(61, 115).every((value) => typeof value === 'number' && value > 0 && value < 100)
    ).to.equal(true);
  });

  it('takes a longer step when the picture has less room', async () => {
    const { step, count } = await answer(over(times(14, day), { cells: 400 }));
    expect([step, count]).to.deep.equal([3_600_000, 336]);
  });

  it('of percentiles is of the readings in each cell, and is refused where readings came summed up', async () => {
    const depth = { ...signal, metric: 'queue.depth' };
    await until('queues', async () => (await answer(over(hour, { signal: depth }))).series.length > 0);
    const readings = await answer(over(hour, { signal: { ...depth, statistic: 'last' } }));
    const middle = await answer(over(hour, { signal: { ...depth, step: 'PT5M', statistic: 'median' } }));
    let compared = 0;
    for (const [index, { values }] of middle.series.entries())
      for (const [cell, value] of values.entries()) {
        const from = (middle.start + cell * middle.step - readings.start) / readings.step;
        const within = readings.series[index]!.values.slice(Math.max(0, from), from + 5).filter((one) => one !== null);
        if (from < 0 || within.length !== 5) continue;
        expect(value).to.equal(within.toSorted((a, b) => a - b)[2]);
        compared++;
      }
    expect(compared).to.be.above(20);
    const error = await answerQuery(
      house.bussola,
      querySchema.parse(over(hour, { signal: { ...signal, statistic: 'p95' } }))
    ).catch((refused: unknown) => refused);
    expect(error).to.be.instanceOf(Refusal);
    expect((error as Refusal).message).to.equal(
      'It comes as summaries of several readings, which have no 95th percentile.'
    );
    const draft = await draftAlarm(house.bussola, JSON.stringify({ ...signal, statistic: 'p95' }));
    expect(draft.signal.statistic, 'an alarm drafted from it').to.equal('avg');
  });

  it('as CSV has a row for each cell, the same numbers, and gaps without a value', async () => {
    const query = querySchema.parse(over(times(2, hour)));
    const { series, start, step, count } = await answer(query);
    const text = Buffer.from(await answerQuery(house.bussola, query, 'csv')).toString('utf8');
    const rows = parse<Record<string, string>>(text, { columns: true });
    expect(text.split('\r\n')[0]).to.equal('time,account,region,resource,value');
    expect(rows).to.have.length(series.length * count);
    for (const [index, row] of rows.entries()) {
      const one = series[Math.floor(index / count)]!;
      const value = one.values[index % count];
      expect([row['time'], row['resource'], row['value']]).to.deep.equal([
        new Date(start + (index % count) * step).toISOString(),
        one.resource,
        value === null ? '' : String(value)
      ]);
    }
  });

  it('as CSV never gives a spreadsheet a formula to run', () => {
    const grid = { start: instant(0), step: duration(60_000), count: 1 };
    const text = frameCsv({ grid, columns: [{ seriesId: 1, values: Float64Array.of(-1.5), newest: 0 }] }, [
      { id: 1, account: '=cmd|x', region: 'a,"b"', resource: '@sum(a1)', resourceId: 1 }
    ]);
    expect(text).to.equal(
      'time,account,region,resource,value\r\n1970-01-01T00:00:00.000Z,\'=cmd|x,"a,""b""",\'@sum(a1),-1.5\r\n'
    );
  });

  it('of an unknown metric has no series, which is not an error', async () => {
    expect((await answer(over(hour, { signal: { ...signal, metric: 'machine.of.nobody' } }))).series).to.deep.equal([]);
  });

  it('for too many cells is refused with a step that fits', async () => {
    const error = await answerQuery(house.bussola, querySchema.parse(over(times(300, day)))).catch(
      (refused: unknown) => refused
    );
    expect(error).to.be.instanceOf(Refusal);
    const step = /step of (PT\w+)/.exec((error as Refusal).remedy)?.[1];
    expect(step).to.equal('PT30M');
    expect((await answer(over(times(300, day), { signal: { ...signal, step } }))).count).to.equal(14_400);
  });

  it('that cannot be read names the path', () => {
    const paths = (query: unknown) => querySchema.safeParse(query).error?.issues.map(({ path }) => path.join('.'));
    expect(paths(over(hour, { from: 'yesterday' }))).to.include('from');
    expect(paths({ ...over(hour), from: over(hour).to, to: over(hour).from })).to.deep.equal(['to']);
    expect(paths(over(hour, { signal: { ...signal, statistic: 'mode' } }))).to.deep.equal(['signal.statistic']);
    expect(paths(over(hour, { cells: 1e9 }))).to.deep.equal(['cells']);
    expect(paths(null)).to.deep.equal(['']);
  });

  it('an alarm drafted from a panel is filled in and valid; nonsense in the address gives the usual one', async () => {
    const draft = await draftAlarm(house.bussola, JSON.stringify({ ...signal, metric: 'machine.network.out' }));
    expect(draft.name).to.equal('High network out');
    expect(draft.rule.condition.threshold).to.be.above(100_000);
    for (const nonsense of [null, '{', '[]', '{"version":2}'])
      expect((await draftAlarm(house.bussola, nonsense)).signal.metric).to.equal('machine.processor.use');
  });
});

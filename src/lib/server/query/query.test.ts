import { drawnLimits } from '../../core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { parse } from 'csv-parse/sync';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { problemsOf } from '../../core/forms/problems';
import { unpacked, valuesOf, type PackedAnswer, type QueryAnswer, type Statistic } from '../../core/series';
import { plainSignal, requirePlainPick, type Signal } from '../../core/signal';
import {
  before as earlier,
  day,
  duration,
  hour,
  instant,
  minute,
  range,
  textFromInstant,
  times,
  type Duration
} from '../../core/time';
import { draftAlarm } from '../alarms/draft';
import { collectionOf } from '../intake/ledger/collections';
import { seriesOfMetric } from '../inventory/series';
import { answerQueries, answerQuery, queriesSchema, querySchema } from './query';
import { GivenUp } from './query-queue';
import { frameCsv } from './signals/frame-csv';

describe('a query', () => {
  const house = withHouse();
  const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
  const depthOf = (statistic: Statistic, step = 'PT1M') => plainSignal({ metric: 'queue.depth', statistic, step });
  const over = (length: Duration, more = {}) => ({
    signal,
    from: textFromInstant(earlier(house.clock.now(), length)),
    to: textFromInstant(house.clock.now()),
    ...more
  });
  const answer = async (query: unknown) => {
    const bytes = await answerQuery(house.bussola, querySchema.parse(query));
    const read = JSON.parse(Buffer.from(bytes).toString('utf8')) as QueryAnswer;
    return { ...read, valuesAt: (cell: number) => read.series.map(({ values }) => values[cell] ?? NaN) };
  };
  const refusedBy = async (query: unknown): Promise<Refusal> => {
    const error: unknown = await answerQuery(house.bussola, querySchema.parse(query)).catch(
      (refused: unknown) => refused
    );
    expect(error).to.be.instanceOf(Refusal);
    return error as Refusal;
  };

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
    await until('queues', async () => (await seriesOfMetric(house.bussola.db, 'queue.depth')).length > 0);
    const readings = await answer(over(hour, { signal: depthOf('last') }));
    const middle = await answer(over(hour, { signal: depthOf('median', 'PT5M') }));
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
      querySchema.parse(over(hour, { signal: plainSignal({ metric: 'machine.processor.use', statistic: 'p95' }) }))
    ).catch((refused: unknown) => refused);
    expect(error).to.be.instanceOf(Refusal);
    expect((error as Refusal).message).to.equal(
      'It comes as summaries of several readings, which have no 95th percentile.'
    );
    const draft = await draftAlarm(
      house.bussola,
      JSON.stringify(plainSignal({ metric: 'machine.processor.use', statistic: 'p95' }))
    );
    expect(requirePlainPick(draft.signal as Signal).statistic, 'an alarm drafted from it').to.equal('avg');
  });

  it('as CSV has a row for each cell, the same numbers, and gaps without a value', async () => {
    const query = querySchema.parse(over(times(2, hour)));
    const { series, start, step, count } = await answer(query);
    const text = Buffer.from(await answerQuery(house.bussola, query, { name: 'test' }, 'csv')).toString('utf8');
    const rows = parse<Record<string, string>>(text, { columns: true });
    expect(text.split('\r\n')[0]).to.equal('time,row,unit,account,provider,region,service,type,resource,value');
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
    const labels = { account: '=cmd|x', region: 'a,"b"', resource: '@sum(a1)' };
    const columns = [{ labels, values: Float64Array.of(-1.5), newest: 0, completeUntil: 0, seriesId: 1 }];
    const effort = { series: 1, points: 1, resolution: 0, milliseconds: 0 };
    const rows = [{ name: 'a', unit: '%', isRatio: false, columns }];
    expect(frameCsv({ kind: 'worked', grid, rows, notes: [], effort })).to.equal(
      'time,row,unit,account,region,resource,value\r\n1970-01-01T00:00:00.000Z,a,%,\'=cmd|x,"a,""b""",\'@sum(a1),-1.5\r\n'
    );
  });

  it('of an unknown metric is refused with its path; conditions that leave nothing are said', async () => {
    const unknown = { ...signal, rows: [{ name: 'a', metric: 'machine.of.nobody', where: [], statistic: 'avg' }] };
    const error = await refusedBy(over(hour, { signal: unknown }));
    expect([error.message, error.path]).to.deep.equal([
      'There is no metric named machine.of.nobody.',
      ['rows', 0, 'metric']
    ]);
    const where = [
      { label: 'account', is: ['corallo-prod'] },
      { label: 'region', matches: '^nowhere' }
    ];
    const { series, notes } = await answer(
      over(hour, { signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg', where }) })
    );
    expect(series).to.deep.equal([]);
    expect(notes).to.deep.equal([
      { row: 'a', text: 'None of the 10 series of machine.processor.use is there whose region matches ^nowhere.' }
    ]);
  });

  it('works a formula over combined rows out, with its unit, and the same for a board at once', async () => {
    const metric = 'machine.network.out';
    const combine = { statistic: 'sum', by: ['region'] } as const;
    const shares = {
      version: 2,
      step: 'PT1M',
      rows: [
        { name: 'here', metric, where: [], statistic: 'avg', combine },
        { name: 'all', metric, where: [], statistic: 'avg', combine: { statistic: 'sum', by: [] } },
        { name: 'share', formula: 'here / all' }
      ],
      unit: '%'
    };
    const one = await answer(over(times(2, hour), { signal: shares }));
    expect(one.rows).to.deep.equal([{ name: 'share', unit: '%' }]);
    expect(one.series.map(({ name }) => name)).to.deep.equal([...new Set(one.series.map(({ region }) => region))]);
    expect(one.valuesAt(100).reduce((sum, value) => sum + value, 0)).to.be.closeTo(100, 1e-9);
    const { from, to } = over(times(2, hour));
    const unknown = { ...signal, rows: [{ name: 'a', metric: 'machine.of.nobody', where: [], statistic: 'avg' }] };
    const bytes = await answerQueries(
      house.bussola,
      queriesSchema.parse({ signals: [shares, unknown, signal], from, to })
    );
    const [board, fault, plain] = JSON.parse(Buffer.from(bytes).toString('utf8')) as QueryAnswer[];
    expect(board?.series).to.deep.equal(one.series);
    expect(fault).to.deep.include({ path: ['rows', 0, 'metric'] });
    expect(plain?.series).to.have.length(10);
    const own = { from: over(hour).from, to, cells: 7 };
    const spans = await answerQueries(
      house.bussola,
      queriesSchema.parse({ signals: [signal, signal], spans: [{ from, to }, own], from, to })
    );
    const [long, short] = JSON.parse(Buffer.from(spans).toString('utf8')) as QueryAnswer[];
    expect(long).to.deep.include({ start: plain?.start, count: plain?.count });
    expect(short?.count, 'each over its own span').to.be.within(2, 7);
    expect(queriesSchema.safeParse({ signals: [signal], spans: [own, own], from, to }).success).to.equal(false);
    const packed = await answerQueries(
      house.bussola,
      queriesSchema.parse({ signals: [shares, signal], from, to, values: 'packed' })
    );
    const columns = (JSON.parse(Buffer.from(packed).toString('utf8')) as PackedAnswer[]).map(unpacked);
    for (const [index, same] of [one, plain].entries())
      expect(columns[index]?.series.map(valuesOf), 'packed values').to.deep.equal(same?.series.map(valuesOf));
  });

  it('names the place in a formula, and the row that depends on itself', async () => {
    const rows = (formula: string, more: object[] = []) => ({
      version: 2,
      step: 'PT1M',
      rows: [{ name: 'a', metric: 'machine.memory.use', where: [], statistic: 'avg' }, ...more, { name: 'b', formula }]
    });
    const refused = (signalOf: object) => refusedBy(over(hour, { signal: signalOf }));
    expect(await refused(rows('a + nothing'))).to.deep.include({ path: ['rows', 1, 'formula'], place: [4, 11] });
    expect((await refused(rows('c', [{ name: 'c', formula: 'b' }]))).message).to.include('depends on itself');
    expect(await refused(rows(`${'('.repeat(1000)}a${')'.repeat(999)}`))).to.deep.include({
      path: ['rows', 1, 'formula']
    });
  });

  it('of a board has one budget: equal signals are worked out once, and what is beyond it is refused apart', async () => {
    const large = { ...signal, step: 'PT1M' };
    const { from, to } = over(times(13, day));
    const many = queriesSchema.parse({ signals: Array.from({ length: 100 }, () => large), from, to });
    const answers = async (isAnonymous: boolean) => {
      const bytes = await answerQueries(house.bussola, many, { name: 'somebody', isAnonymous });
      const read = JSON.parse(Buffer.from(bytes).toString('utf8')) as ({ effort: unknown } | { code: string })[];
      return {
        answered: read.filter((one) => 'effort' in one).length,
        refused: read.filter((one) => 'code' in one && one.code === 'too-much-at-once').length,
        efforts: new Set(read.map((one) => JSON.stringify('effort' in one ? one.effort : null))).size
      };
    };
    // 18,721 cells of ten machines each
    expect(await answers(false)).to.deep.equal({ answered: 10, refused: 90, efforts: 2 });
    expect(await answers(true), 'by a link').to.deep.equal({ answered: 2, refused: 98, efforts: 2 });
  });

  it('waits for its turn behind what alarms need, however much is asked for', async () => {
    const { evaluator } = house.bussola;
    const ended: string[] = [];
    const { from, to } = over(times(6, day));
    const board = (reader: number, n: number) =>
      queriesSchema.parse({
        signals: Array.from({ length: 100 }, (_, i) => ({ ...signal, step: `PT${1 + ((i + n + reader) % 50)}M` })),
        from,
        to
      });
    const readers = [1, 2, 3, 4].flatMap((reader) =>
      [1, 2, 3].map((n) =>
        answerQueries(house.bussola, board(reader, n), { name: `reader ${reader}` }).then(() => ended.push('board'))
      )
    );
    const alarm = evaluator.evaluate(
      { signal, sources: {}, notes: [], completeUntil: house.clock.now(), linesUntil: {} },
      range(earlier(house.clock.now(), hour), house.clock.now()),
      minute
    );
    await alarm.then(() => ended.push('alarm'));
    expect(ended.indexOf('alarm'), 'boards that were answered before it').to.be.below(3);
    await Promise.all(readers);
    expect(ended).to.have.length(13);
  });

  it('is given up when its reader has gone, and the next is answered', async () => {
    const { from, to } = over(times(6, day));
    const long = queriesSchema.parse({
      signals: Array.from({ length: 100 }, (_, i) => ({ ...signal, step: `PT${i + 1}M` })),
      from,
      to
    });
    const gone = new AbortController();
    const answer = answerQueries(house.bussola, long, { name: 'somebody', gone: gone.signal });
    gone.abort();
    expect(await answer.catch((error: unknown) => error)).to.be.instanceOf(GivenUp);
    const next = await answerQueries(house.bussola, { ...long, signals: [signal] }, { name: 'somebody' });
    expect(JSON.parse(Buffer.from(next).toString('utf8'))).to.have.length(1);
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
    const paths = (query: unknown) => {
      const { error } = querySchema.safeParse(query);
      return error ? problemsOf(error).map(({ path }) => path) : [];
    };
    expect(paths(over(hour, { from: 'yesterday' }))).to.include('from');
    expect(paths({ ...over(hour), from: over(hour).to, to: over(hour).from })).to.deep.equal(['to']);
    expect(
      paths(over(hour, { signal: { ...signal, rows: [{ ...signal.rows[0], statistic: 'mode' }] } }))
    ).to.deep.equal(['signal.rows.0.statistic']);
    expect(paths(over(hour, { cells: 1e9 }))).to.deep.equal(['cells']);
    expect(paths(null)).to.deep.equal(['']);
  });

  it('an alarm drafted from a panel is filled in and valid; nonsense in the address gives the usual one', async () => {
    const draft = await draftAlarm(
      house.bussola,
      JSON.stringify(plainSignal({ metric: 'machine.network.out', statistic: 'avg' }))
    );
    expect(draft.name).to.equal('High network out');
    expect(drawnLimits(draft.rule)[0]?.value).to.be.above(100_000);
    for (const nonsense of [null, '{', '[]', '{"version":1}'])
      expect(requirePlainPick((await draftAlarm(house.bussola, nonsense)).signal as Signal).metric).to.equal(
        'machine.processor.use'
      );
  });
});

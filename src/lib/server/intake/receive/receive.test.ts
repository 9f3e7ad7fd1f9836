import { rule, threshold } from '../../../../../tests/support/alarm';
import { expect } from 'chai';
import { processorAlarm, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import type { QueryAnswer } from '../../../core/series';
import { plainSignal } from '../../../core/signal';
import { hour, minute, textFromInstant, type Instant } from '../../../core/time';
import { alarmById, seriesStates } from '../../alarms/alarms';
import { correctUnit } from '../../alarms/correct-unit';
import { allDropped } from '../ledger/collections';
import { saveMetrics } from '../../inventory/metrics';
import { answerQuery } from '../../query/query';
import { keyByText, makeKey, type Key } from './keys';
import { storeReceived } from './receive';

describe('receiving', () => {
  const house = withHouse();
  let number = 0;

  async function newKey(mostSeries = 100): Promise<Key> {
    const { db, clock } = house.bussola;
    const name = `key-${++number}`;
    const { text } = await makeKey(db, {
      name,
      expiresAt: null,
      mostSeries,
      mostBytesADay: 1e9,
      createdAt: clock.now(),
      createdBy: 'test'
    });
    return (await keyByText(db, text, clock.now())) as Key;
  }

  /** Sends lines as a program would: parsed by the pool, then stored. */
  async function send(key: Key, lines: readonly object[]) {
    const { parsers, clock } = house.bussola;
    const body = Buffer.from(lines.map((line) => JSON.stringify(line)).join('\n'));
    return storeReceived(
      house.bussola,
      key,
      await parsers.receive({ format: 'ndjson', body, isGzip: false, now: clock.now() })
    );
  }
  async function sendOtlp(key: Key, metric: object) {
    const { parsers, clock } = house.bussola;
    const body = Buffer.from(JSON.stringify({ resourceMetrics: [{ scopeMetrics: [{ metrics: [metric] }] }] }));
    return storeReceived(
      house.bussola,
      key,
      await parsers.receive({ format: 'otlp-json', body, isGzip: false, now: clock.now() })
    );
  }

  /** Values of the only series of a metric over the last hours. */
  async function valuesOf(metric: string, statistic: 'rate' | 'avg' | 'increase', hours = 2, account?: string) {
    const now = house.clock.now();
    const where = account === undefined ? [] : [{ label: 'account', is: [account] }];
    const bytes = await answerQuery(house.bussola, {
      signal: plainSignal({ metric, statistic, where }),
      from: textFromInstant((now - hours * hour) as Instant),
      to: textFromInstant(now),
      zone: 'UTC',
      values: 'numbers'
    });
    const answer = JSON.parse(Buffer.from(bytes).toString()) as QueryAnswer;
    const values = answer.series.flatMap((series) => [...(series.values as Iterable<number | null>)]);
    return { unit: answer.rows[0]?.unit, notes: answer.notes, values: values.filter((value) => value !== null) };
  }
  /** An instant so many minutes before now. */
  const ago = (minutes: number): number => house.clock.now() - minutes * minute;
  const nano = (at: number): string => `${at}000000`;

  it('a change sent every ten minutes is a rate over ten minutes, from the first one on', async () => {
    const key = await newKey();
    for (let i = 6; i >= 1; i--)
      await send(key, [{ metric: 'ten.change', kind: 'delta', at: ago(i * 10), value: 600, resource: 'gate' }]);
    const { values } = await valuesOf('ten.change', 'rate');
    expect(values).to.have.length(60);
    expect(Math.min(...values), values.join()).to.be.closeTo(1, 1e-9);
    expect(Math.max(...values)).to.be.closeTo(1, 1e-9);
  });

  it('a running total sent every ten minutes grows in every minute, and nothing is lost', async () => {
    const key = await newKey();
    for (let i = 6; i >= 0; i--)
      await send(key, [
        { metric: 'ten.total', kind: 'cumulative', at: ago(i * 10 + 1), value: (6 - i) * 600, resource: 'gate' }
      ]);
    const { values } = await valuesOf('ten.total', 'increase');
    expect(values).to.have.length(60);
    expect(values.reduce((sum, value) => sum + value, 0)).to.be.closeTo(3600, 1e-6);
  });

  it('OTLP: a change over (a, b] is spread over just that, however long it is', async () => {
    const key = await newKey();
    const point = (from: number, to: number, value: number) => ({
      startTimeUnixNano: nano(ago(from)),
      timeUnixNano: nano(ago(to)),
      asDouble: value
    });
    await sendOtlp(key, {
      name: 'lasting.change',
      sum: {
        aggregationTemporality: 1,
        isMonotonic: true,
        dataPoints: [point(60, 30, 1800), point(30, 20, 1200), point(20, 15, 900)]
      }
    });
    const { values } = await valuesOf('lasting.change', 'rate');
    expect(values).to.deep.equal([
      ...Array<number>(30).fill(1),
      ...Array<number>(10).fill(2),
      ...Array<number>(5).fill(3)
    ]);
  });

  it('OTLP: a start that moves is a reset, also when the total is higher than before', async () => {
    const key = await newKey();
    const point = (start: number, at: number, value: number) => ({
      startTimeUnixNano: nano(ago(start)),
      timeUnixNano: nano(ago(at)),
      asInt: value
    });
    const total = (dataPoints: object[]) => ({
      name: 'restarted.total',
      sum: { aggregationTemporality: 2, isMonotonic: true, dataPoints }
    });
    await sendOtlp(key, total([point(12, 10, 10)]));
    await sendOtlp(key, total([point(9, 5, 15)]));
    const { values } = await valuesOf('restarted.total', 'increase');
    expect(values.reduce((sum, value) => sum + value, 0)).to.be.closeTo(25, 1e-9);
  });

  it('what one key says of a metric changes nothing for another key, nor for a provider', async () => {
    const { db } = house.bussola;
    await saveMetrics(db, 'levante', [
      {
        name: 'told.use',
        title: 'Use',
        description: '',
        unit: '%',
        kind: 'gauge',
        shape: 'single',
        resourceType: 'machine',
        service: 'machines',
        recommended: true,
        level: 'host',
        samplingMs: 60_000,
        delayMs: 50_000
      }
    ]);
    const [one, other] = [await newKey(), await newKey()];
    const line = (metric: string, unit: string, value: number) => ({ metric, unit, value, at: ago(2), resource: 'r' });
    expect((await send(one, [line('told.use', 's', 1)])).reasons).to.deep.equal({ 'another unit than before': 1 });
    expect((await send(one, [line('told.use', '1', 0.25)])).accepted).to.equal(1);
    expect(await valuesOf('told.use', 'avg')).to.deep.include({ unit: '%', values: [25] });

    await send(one, [line('told.wait', 's', 1)]);
    await send(other, [line('told.wait', 'ms', 500)]);
    expect((await valuesOf('told.wait', 'avg', 2, one.name)).values).to.deep.equal([1]);
    expect(await valuesOf('told.wait', 'avg', 2, other.name)).to.deep.include({ unit: 'ms', values: [500] });
    expect((await send(one, [line('told.wait', 'ms', 2000)])).accepted).to.equal(1);
    expect(await valuesOf('told.wait', 'avg', 2, one.name)).to.deep.include({ unit: 's', values: [2] });
    expect((await send(one, [{ ...line('told.wait', 's', 1), kind: 'delta' }])).reasons).to.deep.equal({
      'another kind than before': 1
    });
  });

  it('a key that measures something else under the same name breaks nobody’s query', async () => {
    const [one, other] = [await newKey(), await newKey()];
    await send(one, [{ metric: 'mixed.size', unit: 'By', value: 7, at: ago(2), resource: 'a' }]);
    await send(other, [{ metric: 'mixed.size', unit: 's', value: 9, at: ago(2), resource: 'b' }]);
    const { unit, values, notes } = await valuesOf('mixed.size', 'avg');
    expect([unit, values]).to.deep.equal(['By', [7]]);
    expect(notes[0]?.text).to.contain('measures something else');
  });

  it('an alarm on what is sent goes on being judged when its unit is corrected, with the threshold as it was meant', async () => {
    const { db } = house.bussola;
    const key = await newKey();
    const metric = 'scan.size';
    const measure = (value: number) =>
      send(key, [{ metric, kind: 'gauge', unit: 'ms', at: ago(1), value, resource: 'gate' }]);
    await measure(5);
    const { id } = await processorAlarm(house, '', {
      signal: { ...plainSignal({ metric, statistic: 'avg' }), unit: 'ms' },
      rule: rule(1, 1, { levels: [threshold('above', 80)], whenMissing: 'keep' })
    });
    const state = async () => (await seriesStates(db, id))[0]?.state;
    await until('clear', async () => (await state()) === 'clear');
    await correctUnit(house.bussola, metric, 'By', 'Nerea');
    expect((await alarmById(db, id))?.definition.signal?.unit).to.equal('By');
    house.clock.pass(3);
    await measure(90);
    await until('raised', async () => (await state()) === 'raised');
    expect((await alarmById(db, id))?.lastError).to.equal(null);
    await correctUnit(house.bussola, 'machine.processor.use', 'By', 'Nerea').then(
      () => expect.fail('the unit of what a provider reports was changed'),
      ({ code }: { code: string }) => expect(code).to.equal('not-found')
    );
  });

  it('counts by reason in the answer and on the intake page', async () => {
    const key = await newKey();
    const line = (changed: object) => ({ metric: 'counted', at: ago(2), value: 1, resource: 'r', ...changed });
    const taken = await send(key, [
      line({}),
      line({ at: house.clock.now() + 3_600_000 }),
      line({ at: '1969-01-01T00:00:00Z' }),
      line({}),
      line({ resource: 'a\0' })
    ]);
    const reasons = {
      'more than ten minutes ahead': 1,
      'cannot be read': 1,
      'sent twice': 1,
      'text that cannot be stored': 1
    };
    expect(taken).to.deep.include({ accepted: 1, rejected: 4, reasons });
    const dropped = (await allDropped(house.bussola.db)).filter(({ accountId }) => accountId === key.accountId);
    expect(Object.fromEntries(dropped.map(({ reason, count }) => [reason, count]))).to.deep.equal(reasons);
  });

  it('the limit of series holds when requests come at the same time', async () => {
    const key = await newKey(10);
    const all = await Promise.all(
      Array.from({ length: 6 }, (_, request) =>
        send(
          key,
          Array.from({ length: 5 }, (_one, i) => ({
            metric: 'limited',
            at: ago(1),
            value: 1,
            resource: `r-${request}-${i}`
          }))
        )
      )
    );
    expect(all.reduce((sum, { accepted }) => sum + accepted, 0)).to.equal(10);
    const [row] = await house.bussola.db.rows<{ count: number }>(
      `select count(*)::integer as count from series where metric = 'limited'`
    );
    expect(row?.count).to.equal(10);
  });

  it('labels as long as may be are stored, whatever is in them', async () => {
    const key = await newKey();
    // Nothing that compression could make shorter.
    const random = (length: number) =>
      Array.from({ length }, () => String.fromCharCode(33 + Math.floor(Math.random() * 90)).replace(/["\\]/, 'x')).join(
        ''
      );
    for (const count of [1, 2, 40]) {
      const room = Math.min(1000, Math.floor(2200 / count) - 30);
      const labels = Object.fromEntries(Array.from({ length: count }, (_, i) => [`l${i}`, random(room)]));
      const taken = await send(key, [{ metric: `long-${count}`, at: ago(1), value: 1, resource: 'r', labels }]);
      expect(taken, JSON.stringify(taken.faults)).to.deep.include({ accepted: 1 });
    }
  });
});

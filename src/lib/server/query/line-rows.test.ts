import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { encodeBatch, noOrigin, type Line } from '../../core/logs';
import type { QueryAnswer } from '../../core/series';
import { signalSchema, type Signal } from '../../core/signal';
import { before as earlier, instant, minute, textFromInstant, times, type Instant } from '../../core/time';
import { lineAt } from '../../../../tests/support/lines';
import { oneRow } from '../db/pool';
import { draftAlarm } from '../alarms/draft';
import { insertAlarm } from '../alarms/alarms';
import { makeDerived } from './derived/make-derived';
import { derivedById } from './derived/derived';
import { answerQuery, querySchema } from './query';

const signal = (rows: object[], more: object = {}): Signal =>
  signalSchema.parse({ version: 2, step: 'PT1M', rows, ...more });

describe('signals that count lines', () => {
  const house = withHouse();
  let accountId = 0;

  const line = (at: Instant, text: string, more: Partial<Line> = {}): Line => ({ ...lineAt(0, text, more), at });
  const append = (lines: readonly Line[]) =>
    house.bussola.logs.logs.append(house.clock.now(), [
      { accountId, service: 'functions', stream: 'fares', resourceId: null, batch: encodeBatch(noOrigin, lines) }
    ]);
  async function answer(
    of: Signal,
    lineAccounts: readonly number[] | null = null,
    now = house.clock.now()
  ): Promise<QueryAnswer> {
    const query = { signal: of, from: textFromInstant(earlier(now, times(10, minute))), to: textFromInstant(now) };
    const bytes = await answerQuery(house.bussola, querySchema.parse(query), {
      name: 'a test',
      lineAccounts: () => Promise.resolve(lineAccounts)
    });
    return JSON.parse(Buffer.from(bytes).toString('utf8')) as QueryAnswer;
  }
  const complete = ({ series, complete: until }: QueryAnswer) =>
    Object.fromEntries(series.map(({ name, values }) => [name, [...values].slice(0, until)]));

  before(async () => {
    const { db } = house.bussola;
    const now = house.clock.now();
    accountId = oneRow(
      await db.rows<{ id: number }>(
        `insert into accounts (name, provider, endpoint, key_id, secret_sealed, created_at, created_by, history_from)
         values ('corallo-prod', 'pushed', '', '', '', $1, '', $1)
         returning id`,
        [now]
      )
    ).id;
    const at = (minutes: number) => instant(Math.floor(now / minute) * minute - minutes * minute + 1000);
    await append([
      line(at(8), 'fare served in 12 ms'),
      line(at(5), 'fare served in 30 ms'),
      line(at(5), 'fare refused', { severity: 17, fields: { reason: 'no seat' } }),
      line(at(3), 'fare refused', { severity: 17, fields: { reason: 'no route' } }),
      line(at(3), 'fare refused', { severity: 17, fields: { reason: 'no seat' } })
    ]);
  });

  it('have zeros where lines would be, and gaps before the first line', async () => {
    const all = await answer(signal([{ name: 'a', lines: 'service = functions' }]));
    expect(complete(all)['a']).to.deep.equal([null, null, 1, 0, 0, 2, 0, 2, 0]);
    const none = await answer(signal([{ name: 'a', lines: 'nothing like it' }]));
    expect(complete(none)['a']?.slice(2)).to.deep.equal([0, 0, 0, 0, 0, 0, 0]);
  });

  it('are told apart by fields, kept to the highest, and worked with by formulas', async () => {
    const by = await answer(signal([{ name: 'a', lines: 'refused', by: ['reason'] }]));
    expect(complete(by)).to.deep.equal({
      'no seat': [null, null, 0, 0, 0, 1, 0, 1, 0],
      'no route': [null, null, 0, 0, 0, 0, 0, 1, 0]
    });
    const limit = { keep: 1, order: 'highest', by: 'sum', rest: 'leave out' };
    expect(
      Object.keys(complete(await answer(signal([{ name: 'a', lines: 'refused', by: ['reason'] }], { limit }))))
    ).to.deep.equal(['no seat']);
    const share = await answer(
      signal([
        { name: 'good', lines: 'served' },
        { name: 'all', lines: 'fare' },
        { name: 'share', formula: 'good / all * 100' }
      ])
    );
    expect(share.rows[0]?.unit).to.equal('%');
    expect(complete(share)['share']).to.deep.equal([null, null, 100, null, null, 50, null, 0, null]);
  });

  it('take a field of their text with a unit, by a pattern', async () => {
    const pattern = { kind: 'text', text: 'in ‹ms:number› ms' };
    const took = await answer(
      signal([{ name: 'a', lines: 'served', of: { field: 'ms', statistic: 'avg', unit: 'ms' }, pattern }])
    );
    expect(took.rows[0]?.unit).to.equal('ms');
    expect(complete(took)['a']).to.deep.equal([null, null, 12, null, null, 30, null, null, null]);
  });

  it('say what cannot be read with its place, and are refused to whoever may read no lines', async () => {
    const refused = async (work: Promise<unknown>) =>
      (await work.catch((error: unknown) => error)) as Record<string, unknown>;
    expect(await refused(answer(signal([{ name: 'a', lines: 'a (b' }])))).to.deep.include({
      code: 'signal-invalid',
      path: ['rows', 0, 'lines']
    });
    expect(await refused(answer(signal([{ name: 'a', lines: '' }]), []))).to.deep.include({ code: 'not-allowed' });
    const others = await answer(signal([{ name: 'a', lines: 'fare' }]), [accountId + 100]);
    expect([...(others.series[0]?.values ?? [])].some((value) => (value ?? 0) > 0)).to.equal(false);
  });

  it('are complete as far as feeds are read that may have some; one that fails is not waited for, and it is said', async () => {
    const { db } = house.bussola;
    const now = house.clock.now();
    const feed = (name: string, service: string, minutes: number, error: object | null) =>
      db.rows(
        `insert into log_feeds (account_id, feed, service, history_to, until_at, last_error)
         values ($1, $2, $3, $4, $4, $5::jsonb)`,
        [accountId, name, service, earlier(now, times(minutes, minute)), error && JSON.stringify(error)]
      );
    const functions = signal([{ name: 'a', lines: 'service = functions' }]);
    const start = Math.floor(now / minute) - 10;
    const whole = (minutes: number) => Math.floor(now / minute - minutes) - start;
    await feed('fares', 'functions', 2, null);
    await feed('timetable', 'caches', 4, null);
    expect((await answer(functions)).complete).to.equal(whole(2));
    expect((await answer(signal([{ name: 'a', lines: '' }]))).complete).to.equal(whole(4));
    await feed('notice', 'functions', 20, { code: 'unavailable', message: 'It is down.', remedy: '' });
    const told = await answer(functions);
    expect([told.complete, told.notes.map(({ text }) => text)]).to.deep.equal([
      whole(2),
      ['Lines of functions in corallo-prod cannot be read at present and are missing.']
    ]);
    await db.rows('delete from log_feeds');
  });

  it('raise an alarm that clears by itself, and become a metric with history', async () => {
    const { bussola, clock } = house;
    const watched = signal([{ name: 'a', lines: 'refused', by: ['reason'] }]);
    const drafted = await draftAlarm(bussola, JSON.stringify(watched));
    expect(drafted.signal).to.deep.include({ rows: watched.rows });
    const level = {
      severity: 'major' as const,
      condition: { kind: 'threshold' as const, is: 'above' as const, limit: 2 }
    };
    const definition = {
      ...drafted,
      name: 'Fares refused',
      rule: { ...drafted.rule, levels: [level], window: { needs: 1, of: 1 } }
    };
    const alarm = await insertAlarm(bussola.db, definition, 'a test', clock.now());
    bussola.changes.tell('definition', { alarmId: alarm.id });
    const metric = await makeDerived(bussola, { name: 'Refused', signal: watched }, 'a test', 1);
    const now = clock.now();
    await append(
      [1, 2, 3].map((second) =>
        line(instant(now + second * 1000), 'fare refused', { severity: 17, fields: { reason: 'storm' } })
      )
    );
    const incidents = () =>
      bussola.db.rows<{ key: string; peak: number; closedAt: Instant | null }>(
        'select key, peak, closed_at as "closedAt" from incidents where alarm_id = $1',
        [alarm.id]
      );
    const stepping = (what: string, holds: () => Promise<boolean>) =>
      until(what, async () => {
        clock.pass(0.25);
        return holds();
      });
    await stepping('raised and clear again', async () => (await incidents()).some(({ closedAt }) => closedAt !== null));
    expect((await incidents()).map(({ key, peak }) => [key, peak])).to.deep.equal([['[["reason","storm"]]', 3]]);
    await stepping('history and what came', async () => {
      const known = await derivedById(bussola.db, metric.id);
      return known !== null && known.backfillUntil === null && (known.computedUntil ?? 0) >= now + 2 * minute;
    });
    const end = instant(now + 2 * minute);
    const all = [{ name: 'a', metric: 'derived.refused', statistic: 'sum', combine: { statistic: 'sum', by: [] } }];
    const sum = ({ series }: QueryAnswer) =>
      series.flatMap(({ values }) => [...values]).reduce<number>((all, one) => all + (one ?? 0), 0);
    const sums = async () => [
      sum(await answer(signal(all), null, end)),
      sum(await answer(signal([{ name: 'a', lines: 'refused' }]), null, end))
    ];
    // What is committed reaches whoever reads it a moment later: the thread of the samples follows the journal.
    await until('what was committed is read', async () => (await sums())[0] === 6);
    expect(await sums()).to.deep.equal([6, 6]);
  }).timeout(240_000);
});

import { expect } from 'chai';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { objectiveMetrics, objectiveSchema, objectiveStep, paceOf, type Objective } from '../../core/objective';
import { isRefused } from '../../core/problem/problem';
import { readingAt } from '../../core/receive/received';
import { plainSignal } from '../../core/signal';
import { instant, minute, range } from '../../core/time';
import { alarmById, seriesStates } from '../alarms/alarms';
import { removeAlarm } from '../alarms/save-alarm';
import { usesOfMetric } from '../boards/signal-uses';
import { incidentsOfAlarmIn } from '../incidents/incidents';
import { keyByText, makeKey, type Key } from '../intake/receive/keys';
import { storeReceived } from '../intake/receive/receive';
import { insertShelving } from '../shelving/shelvings';
import { objectives } from './objectives';
import { objectiveStandings, objectiveView, tryObjective } from './objective-view';

const counts = (metric: string) => plainSignal({ metric, statistic: 'sum', step: 'PT5M' });
const levels = [
  { severity: 'minor', rate: 1, longMinutes: 60, shortMinutes: 10 },
  { severity: 'critical', rate: 4, longMinutes: 30, shortMinutes: 5 }
] as const;
const promise = (more: object = {}): Objective =>
  objectiveSchema.parse({
    ...{ name: 'Sales', targetPercent: 90, period: { kind: 'rolling', days: 1 }, levels },
    of: { kind: 'share', good: counts('served.good'), all: counts('served.all') },
    ...more
  });

describe('promises, kept by what arrives', () => {
  const house = withHouse();
  let key: Key;
  let begin: number;
  /** How many of a hundred are bad in each minute, from `begin` on. */
  const bad: number[] = [];

  const send = (from: number, to: number) => {
    const series = (name: string, valueOf: (bad: number) => number) => ({
      resource: { id: 'web', name: 'web', tags: {} },
      metric: { name, description: '', unit: '{request}', kind: 'gauge' as const },
      ...{ labels: {}, weight: 1 as const, starts: bad.slice(from, to).map(() => null) },
      points: bad.slice(from, to).map((value, index) => readingAt(begin + (from + index) * minute, valueOf(value)))
    });
    return storeReceived(house.bussola, key, {
      series: [series('served.all', () => 100), series('served.good', (of) => 100 - of)],
      ...{ refused: [], faults: [] }
    });
  };
  /** What was bad in a span, by looking at every minute. */
  const slow = (from: number, to: number, isLeftOut: (at: number) => boolean = () => false) => {
    let [all, sum] = [0, 0];
    for (const [index, value] of bad.entries()) {
      const at = begin + index * minute;
      const cell = Math.floor(at / objectiveStep) * objectiveStep;
      if (cell < from || cell >= to || isLeftOut(cell)) continue;
      all += 100;
      sum += value;
    }
    return { all, bad: sum, rate: all === 0 ? null : sum / all / 0.1 };
  };
  const slowPace = (end: number) => paceOf([...levels], (minutes) => slow(end - minutes * minute, end).rate);
  const isReached = (end: number, { rate, longMinutes, shortMinutes }: (typeof levels)[number]) =>
    [longMinutes, shortMinutes].every((minutes) => (slow(end - minutes * minute, end).rate ?? 0) > rate);
  const code = async (work: Promise<unknown>) =>
    work.then(
      () => 'done',
      (error: unknown) => (isRefused(error) ? error.code : String(error))
    );

  before(async () => {
    const { db, clock } = house.bussola;
    const made = { ...{ name: 'web', expiresAt: null, mostSeries: 10, mostBytesADay: 1e9 }, createdBy: 'test' };
    key = (await keyByText(db, (await makeKey(db, { ...made, createdAt: clock.now() })).text, clock.now()))!;
    const minutes = 40 * 60;
    begin = Math.floor(clock.now() / minute) * minute - minutes * minute;
    for (let index = 0; index < minutes; index++) {
      const [aDayAgo, lately] = [index >= 900 && index < 940, index >= 2000 && index < 2030];
      bad.push(aDayAgo ? 30 : lately ? 70 : index % 7);
    }
    await send(0, minutes);
    house.clock.pass(1);
  });

  it('stand as every minute says, and with maintenance of what they are measured on left out', async () => {
    const { bussola } = house;
    const one = (value: Objective) => ({
      id: 1,
      value,
      version: 1,
      changedAt: instant(0),
      changedBy: '',
      alarmId: null
    });
    const [found] = await objectiveStandings(bussola, [one(promise())]);
    const { standing } = found!;
    expect(standing!.until % objectiveStep).to.equal(0);
    expect(house.clock.now() - standing!.until).to.be.below(3 * objectiveStep);
    const expected = slow(standing!.until - 86_400_000, standing!.until);
    expect([standing!.all, standing!.bad]).to.deep.equal([expected.all, expected.bad]);
    expect(standing!.pace).to.be.closeTo(slowPace(standing!.until)!, 1e-9);
    const [from, to] = [begin + 2010 * minute, begin + 2020 * minute];
    const maintenance = (scope: object) => ({
      ...{ kind: 'maintenance' as const, reason: 'new disks', recurs: null, zone: 'UTC' },
      ...{ from: instant(from), to: instant(to) },
      scope: {
        ...{ alarmIds: [], resources: [], services: [], accounts: [], groupIds: [], labels: [], severities: [] },
        ...scope
      }
    });
    const author = { at: instant(from - minute), by: 'Kaja' };
    await insertShelving(bussola.db, maintenance({ resources: ['another'] }), author);
    const [untouched] = await objectiveStandings(bussola, [one(promise())]);
    expect(untouched!.standing!.bad).to.equal(expected.bad);
    await insertShelving(bussola.db, maintenance({ resources: ['web'] }), author);
    const [without] = await objectiveStandings(bussola, [one(promise())]);
    const isLeftOut = (cell: number) => cell + objectiveStep > from && cell < to;
    const rest = slow(standing!.until - 86_400_000, standing!.until, isLeftOut);
    expect([without!.standing!.all, without!.standing!.bad]).to.deep.equal([rest.all, rest.bad]);
    const [all] = await objectiveStandings(bussola, [one(promise({ leaveOutMaintenance: false }))]);
    expect(all!.standing!.bad).to.equal(expected.bad);
    await bussola.db.rows('delete from shelvings');
  });

  it('count as long as a condition holds, of each series', async () => {
    const of = { kind: 'time', signal: counts('served.good'), is: 'above', limit: 400 };
    const { standing } = await tryObjective(house.bussola, promise({ of }));
    let held = 0;
    for (let cell = standing.until - 86_400_000; cell < standing.until; cell += objectiveStep) {
      const { all, bad: sum } = slow(cell, cell + objectiveStep);
      if (all - sum > 400) held++;
    }
    expect([standing.all, standing.all - standing.bad]).to.deep.equal([288, held]);
    const none = { kind: 'time', signal: counts('no.such.metric'), is: 'above', limit: 1 };
    expect(await code(tryObjective(house.bussola, promise({ of: none })))).to.equal('unknown-metric');
  });

  it('say what used them, and what their levels would have raised', async () => {
    const { used, past, left } = await objectiveView(house.bussola, promise(), null);
    expect(used[0]!.from).to.equal(Math.floor((begin + 2000 * minute) / objectiveStep) * objectiveStep);
    expect(used[0]!.bad).to.equal(slow(used[0]!.from, used[0]!.to).bad);
    expect(past).to.have.length(1);
    expect(left.values.at(-1)).to.be.a('number');
    const { raised, standing } = await tryObjective(house.bussola, promise());
    const runs = (severity: 'minor' | 'critical') => {
      let [count, before] = [0, false];
      const first = Math.ceil(begin / objectiveStep) * objectiveStep + objectiveStep;
      for (let end = first; end <= standing.until; end += objectiveStep) {
        const critical = isReached(end, levels[1]);
        const isOn = severity === 'critical' ? critical : !critical && isReached(end, levels[0]);
        if (isOn && !before) count++;
        before = isOn;
      }
      return count;
    };
    expect(raised.map(({ severity, times }) => [severity, times])).to.deep.equal([
      ['minor', runs('minor')],
      ['critical', runs('critical')]
    ]);
    expect(runs('critical')).to.be.above(0);
  });

  it('have an alarm that follows them, and none without levels', async () => {
    const { bussola } = house;
    const made = await objectives.add(bussola, promise({ enabled: false }), 'Kaja');
    expect((await alarmById(bussola.db, made.alarmId!))?.definition).to.deep.include({
      ...{ name: 'Promise: Sales', enabled: false, about: '90 % is to be good in every day.' }
    });
    expect(await usesOfMetric(bussola.db, 'served.all')).to.deep.equal([
      { kind: 'promise', id: made.id, name: 'Sales' }
    ]);
    const without = await objectives.save(bussola, made.id, 1, promise({ enabled: false, levels: [] }), 'Kaja');
    expect(without.alarmId).to.equal(null);
    expect(await alarmById(bussola.db, made.alarmId!)).to.equal(null);
    expect(await code(objectives.save(bussola, made.id, 1, promise(), 'Ivo'))).to.equal('changed-meanwhile');
    const again = await objectives.save(bussola, made.id, without.version, promise({ enabled: false }), 'Kaja');
    await removeAlarm(bussola, again.alarmId!);
    await objectives.remove(bussola, made.id);
    expect(await code(objectives.remove(bussola, made.id))).to.equal('not-found');
  });

  it('are measured as they are defined, back into the past, and raise their alarm live just as rehearsed', async () => {
    const { bussola, clock } = house;
    const { alarmId, id } = await objectives.add(bussola, promise(), 'Kaja');
    const state = async () => (await seriesStates(bussola.db, alarmId!))[0];
    const live = async (value: number) => {
      bad.push(value);
      clock.pass(1);
      await send(bad.length - 1, bad.length);
    };
    const reaches = (wanted: string, value: number) =>
      until(
        wanted,
        async () => {
          await live(value);
          const now = await state();
          return wanted === 'clear' ? now?.state === 'clear' : now?.state === 'raised' && now.severity === wanted;
        },
        60_000
      );
    await reaches('clear', 0);
    await reaches('critical', 90);
    await reaches('clear', 0);
    const [series] = await bussola.db.rows<{ id: number }>(
      `select series.id from series join resources on resources.id = series.resource_id and resources.account_id = series.account_id
       where metric = $1 and resources.provider_id = $2`,
      [objectiveMetrics.pace, `promise/${id}`]
    );
    const to = clock.now();
    const [points] = await bussola.store.samples.points([series!.id], range(instant(begin), to));
    expect(points!.at.length).to.be.above(400);
    for (const [index, at] of points!.at.entries())
      expect(points!.sum[index], new Date(at).toISOString()).to.be.closeTo(slowPace(at + objectiveStep)!, 1e-9);
    const opened = (await incidentsOfAlarmIn(bussola.db, alarmId!, range(instant(begin), to))).map(
      ({ openedAt, closedAt, gravest }) => [openedAt, closedAt, gravest]
    );
    const { definition } = (await alarmById(bussola.db, alarmId!))!;
    const asked = { alarm: definition, days: 2, zone: 'UTC', id: alarmId!, propose: false };
    const answer = await bussola.judging.rehearse(clock.now(), asked);
    if (!('periods' in answer)) throw new Error(JSON.stringify(answer));
    const first = opened[0]![0] as number;
    expect(
      answer.periods.filter(({ from }) => from >= first).map(({ from, to: end, severity }) => [from, end, severity])
    ).to.deep.equal(opened);
    expect(isReached(first, levels[0]) || isReached(first + objectiveStep, levels[0])).to.equal(true);
  }).timeout(300_000);
});

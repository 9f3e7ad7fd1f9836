import { plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { routeTo, connect, mailsTo, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { rehearse, type AlarmDefinition } from '../../core/alarm';
import { plainSignal } from '../../core/signal';
import { before as earlier, hour, minute, range, times, type Instant } from '../../core/time';
import { memoryOfAlarm } from '../alarms/alarm-work';
import { historyToJudge, insertAlarm, seriesStates, wantHistory } from '../alarms/alarms';
import { closeIncident, openIncident } from '../../../../tests/support/incidents';
import { changesOfIncident, openIncidentsOfAlarm } from '../incidents/incidents';
import { incidentsIn } from '../incidents/span';
import { allGaps } from '../intake/pull/gaps';
import { resolveSignal, workOf } from '../query/signals/resolve';

describe('judging history', () => {
  const house = withHouse();

  it('finds what would have been raised, in pieces as in one, and notifies nobody', async () => {
    const { bussola } = house;
    const { db, clock, evaluator } = bussola;
    await connect(house, 'corallo-prod', { historyMinutes: 360 });
    await until('the history', async () => {
      const series = await resolveSignal(db, plainSignal({ metric: 'machine.processor.use', statistic: 'avg' })).catch(
        () => null
      );
      return (series?.series['a']?.length ?? 0) > 0 && (await allGaps(db)).length === 0;
    });
    const judgeAll = async () => {
      while ((await bussola.judging.judgeHistory(clock.now(), times(25, minute))).judged !== null);
    };
    const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
    const definition: AlarmDefinition = {
      name: 'Busy',
      signal,
      rule: rule(2, 3, { levels: [threshold('above', 38, 'minor')] }),
      ...plainDetails,
      route: null
    };
    const now = clock.now();
    const to = (Math.floor(now / minute) * minute - times(10, minute)) as Instant;
    const span = range(earlier(to, times(4, hour)), to);
    const { id } = await db.transaction(async (within) => {
      const alarm = await insertAlarm(within, definition, 'Kaja', now);
      await wantHistory(within, alarm.id, span);
      return alarm;
    });
    await until('it goes on from there', async () => (await memoryOfAlarm(db, id)) !== null);
    await judgeAll();
    await until('all of it is judged', async () => (await historyToJudge(db)).length === 0);

    const lead = range(earlier(span.from, times(2, minute)), span.to);
    const worked = await evaluator.evaluate(workOf(await resolveSignal(db, signal), now), lead, minute);
    if (worked.kind === 'fault') throw new Error(worked.problem.message);
    const columns = worked.rows[0]?.columns ?? [];
    const expected = columns.flatMap(({ seriesId, values }) =>
      rehearse({ grid: worked.grid, columns: [values], zone: 'UTC' }, [seriesId ?? 0], definition.rule).periods.map(
        // What was raised before the span counts from its first cell on.
        (period) =>
          `${period.seriesId} ${Math.max(period.from, span.from + minute)} ${period.to ?? span.to} ${period.peak}`
      )
    );
    const found = (await incidentsIn(db, span)).filter(
      ({ alarmId, judgedAfterwards }) => alarmId === id && judgedAfterwards
    );
    expect(expected.length).to.be.above(5);
    expect(found.map((one) => `${one.seriesId} ${one.openedAt} ${one.closedAt} ${one.peak}`).sort()).to.deep.equal(
      expected.sort()
    );
    expect(await db.rows('select id from outbox where incident_id = any($1::integer[])', [found.map((one) => one.id)]))
      .to.be.empty;
    // What the engine opened itself, in the middle of a raised period, turns out to have begun earlier; it is one incident.
    const [whole] = found;
    if (whole === undefined || whole.seriesId === null || whole.closedAt === null)
      throw new Error('no period of a series');
    const again = await insertAlarm(db, { ...definition, name: 'Busy, known late' }, 'Kaja', now);
    const { key, labels, seriesId } = whole;
    const openedAt = (whole.openedAt + minute) as Instant;
    const known = { alarmId: again.id, key, labels, seriesId, accountId: null, unit: '%', severity: 'minor' as const };
    const live = await openIncident(db, { ...known, openedAt });
    await closeIncident(db, live, whole.closedAt);
    await wantHistory(db, again.id, span);
    await until('it goes on from there', async () => (await memoryOfAlarm(db, again.id)) !== null);
    await judgeAll();
    await until('all of it is judged again', async () => (await historyToJudge(db)).length === 0);
    const ofSeries = (await incidentsIn(db, span)).filter((one) => one.alarmId === again.id && one.key === key);
    const once = found.filter((one) => one.key === key);
    expect(ofSeries.map((one) => `${one.openedAt} ${one.closedAt}`).sort()).to.deep.equal(
      once.map((one) => `${one.openedAt} ${one.closedAt}`).sort()
    );
    expect(ofSeries.find((one) => one.id === live)).to.include({ openedAt: whole.openedAt, judgedAfterwards: false });

    const changes = await changesOfIncident(db, found[0]?.id ?? 0);
    expect(changes[0]).to.include({ to: 'raised' });
    expect(changes[0]?.evidence.values.filter((value) => value !== null && value > 38)).to.have.length.at.least(2);
  }).timeout(240_000);

  it('what it finds raised and still holds is one incident that goes on, of which people hear once', async () => {
    const { bussola } = house;
    const { db, clock } = bussola;
    const told = await routeTo(house, 'still@example.test');
    const now = clock.now();
    const to = (Math.floor(now / minute) * minute) as Instant;
    // It is above 38 % now and then, and never below 1 %: once raised it stays so. The engine, which begins now, cannot know that.
    const definition: AlarmDefinition = {
      name: 'Busy once',
      signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
      rule: rule(2, 3, {
        levels: [{ severity: 'minor', condition: { kind: 'threshold', is: 'above', limit: 38, clear: 1 } }]
      }),
      ...plainDetails,
      route: told
    };
    const { id } = await insertAlarm(db, definition, 'Kaja', now);
    bussola.changes.tell('definition', { alarmId: id });
    await until('judged', async () => (await seriesStates(db, id)).length > 5);
    const before = await seriesStates(db, id);
    await wantHistory(db, id, range(earlier(to, times(4, hour)), to));
    await until('all of it is judged', async () => (await historyToJudge(db)).length === 0);
    const open = (await openIncidentsOfAlarm(db, id)).map(({ key }) => key);
    const found = before.filter(({ key, state }) => state === 'clear' && open.includes(key));
    expect(found.length, 'what the engine did not know').to.be.above(0);
    expect(new Set(open).size).to.equal(open.length);
    house.clock.pass(3);
    await until('the engine goes on with it', async () => {
      const states = await seriesStates(db, id);
      return found.every(({ key }) => states.find((one) => one.key === key)?.state === 'raised');
    });
    expect((await openIncidentsOfAlarm(db, id)).map(({ key }) => key)).to.have.members(open);
    await until('the mails', () => mailsTo(house, 'still@example.test').length >= open.length);
    expect(mailsTo(house, 'still@example.test')).to.have.length(open.length);
  }).timeout(180_000);
});

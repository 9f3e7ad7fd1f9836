import { expect } from 'chai';
import { plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import {
  connect,
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  stressMachine,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { checkSchema, type Check } from '../../core/reachability';
import { isRefused } from '../../core/problem/problem';
import type { QueryAnswer } from '../../core/series';
import { plainSignal, type LabelCondition } from '../../core/signal';
import { after, before as earlier, hour, minute, range, textFromInstant, times } from '../../core/time';
import { insertAlarm, type Alarm } from '../alarms/alarms';
import { listEvents } from '../events/outside-events';
import { answerQuery, querySchema } from '../query/query';
import { attemptsOf, checkById, claimDue, releaseClaim, type StoredCheck } from './checks';
import { addCheck, removeCheck, saveCheck } from './manage-checks';
import { measureChecks } from './measure-checks';

const anyEvent = { text: null, type: null, account: null, resourceId: null };

describe('reachability checks, as they run', () => {
  const house = withHouse();
  const url = () => `${house.standIns.url}/front/sites/timetable`;
  const checkOf = (name: string, more: Partial<Check> = {}): Check =>
    checkSchema.parse({ name, target: { kind: 'http', url: url() }, every: 60, retries: 1, ...more });
  const stored = async (id: number): Promise<StoredCheck> => {
    const found = await checkById(house.bussola.db, id);
    if (found === null) throw new Error(`no check ${id}`);
    return found;
  };
  const tried = (id: number) =>
    until('an attempt', async () => {
      const one = await stored(id);
      return one.last?.at === house.clock.now() ? one : null;
    });
  /** What is there of a metric in the last minutes, up to this one, by the labels of its series. */
  async function values(metric: string, where: LabelCondition, statistic: 'last' | 'sum' | 'avg' = 'last') {
    const now = house.clock.now();
    const query = {
      signal: plainSignal({ metric, statistic, where: [where] }),
      from: textFromInstant(earlier(now, times(10, minute))),
      to: textFromInstant(after(now, minute))
    };
    const bytes = await answerQuery(house.bussola, querySchema.parse(query), {
      name: 'a test',
      lineAccounts: () => Promise.resolve(null)
    });
    const { series } = JSON.parse(Buffer.from(bytes).toString('utf8')) as QueryAnswer;
    return series.map(({ labels, values: cells }) => ({
      phase: labels['phase'] ?? '',
      values: Array.from(cells).filter((value) => value !== null)
    }));
  }
  /** An alarm that is raised while a check is down. */
  async function watching(name: string): Promise<Alarm> {
    const { db, clock, changes } = house.bussola;
    const alarm = await insertAlarm(
      db,
      {
        name: `${name} cannot be reached`,
        signal: plainSignal({ metric: 'check.up', statistic: 'last', where: [named(name)] }),
        rule: rule(1, 1, { levels: [threshold('below', 1)], whenMissing: 'keep' }),
        ...plainDetails,
        route: null
      },
      'test',
      clock.now()
    );
    changes.tell('definition', { alarmId: alarm.id });
    return alarm;
  }
  const named = (name: string): LabelCondition => ({ label: 'resource', is: [name] });

  it('are measured: up, time, phases, failures', async () => {
    const { id } = await addCheck(house.bussola, checkOf('Timetable'), 'Kaja Tamm');
    const first = await tried(id);
    expect(first.standing).to.deep.equal({ state: 'up', since: first.last?.at, failures: 0 });
    await until('samples', async () => (await values('check.up', named('Timetable')))[0]?.values.length);
    expect((await values('check.up', named('Timetable')))[0]?.values).to.deep.equal([1]);
    const [time] = await values('check.time', named('Timetable'));
    expect(time?.values).to.have.length(1);
    expect((await values('check.phase', named('Timetable'))).map(({ phase }) => phase).sort()).to.deep.equal([
      'connect',
      'read',
      'wait'
    ]);
    expect((await values('check.failures', named('Timetable'), 'sum'))[0]?.values).to.deep.equal([0]);
    house.clock.pass(1);
    await tried(id);
    expect(await attemptsOf(house.bussola.db, id, 10), 'only what changed or failed is remembered').to.have.length(1);
    await removeCheck(house.bussola, id);
  }).timeout(90_000);

  it('are down after their retries, raise an alarm once, and clear it', async () => {
    const { db } = house.bussola;
    const { clock } = house;
    const { id } = await addCheck(house.bussola, checkOf('Departures'), 'Kaja Tamm');
    await tried(id);
    const alarm = await watching('Departures');
    house.clock.pass(1);
    await tried(id);
    house.standIns.front.behaving.timetable = 'failing';
    house.clock.pass(1);
    const failed = await tried(id);
    expect(failed.standing, 'one retry is left').to.include({ state: 'up', failures: 1 });
    clock.pass(10 / 60);
    const down = await tried(id);
    expect(down.standing).to.deep.equal({ state: 'down', since: down.last?.at, failures: 2 });
    expect(down.last?.problem).to.equal('Answered 500.');
    for (let i = 0; i < 3; i++) {
      house.clock.pass(1);
      await tried(id);
    }
    const told = async () =>
      (
        await listEvents(db, { range: range(earlier(clock.now(), hour), after(clock.now(), minute)), ...anyEvent }, 9)
      ).map(({ type, text, resource }) => `${type}, ${resource}: ${text}`);
    expect(await until('told', async () => ((await told()).length > 0 ? told() : null))).to.deep.equal([
      'check down, Departures: Departures is down: Answered 500.'
    ]);
    const [incident, ...others] = await until('raised', async () => {
      const found = await incidentsOfAlarm(house, alarm);
      return found.length > 0 ? found : null;
    });
    expect(incident?.subject).to.equal('Departures');
    expect(others).to.deep.equal([]);
    expect((await attemptsOf(db, id, 10)).map(({ state }) => state)).to.deep.equal([
      'down',
      'down',
      'down',
      'down',
      'up',
      'up'
    ]);
    house.standIns.front.behaving.timetable = 'well';
    await until('over', async () => {
      house.clock.pass(1);
      await tried(id);
      return (await incidentsOfAlarm(house, alarm))[0]?.closedAt !== null;
    });
    expect((await told())[0]).to.equal('check up, Departures: Departures is up again.');
    await removeCheck(house.bussola, id);
  }).timeout(180_000);

  it('that are switched off end what they had raised, and say nothing more', async () => {
    const { clock } = house;
    house.standIns.front.behaving.timetable = 'failing';
    const made = await addCheck(house.bussola, checkOf('Winter timetable', { retries: 0 }), 'Kaja Tamm');
    const down = await tried(made.id);
    expect(down.standing.state).to.equal('down');
    const alarm = await watching('Winter timetable');
    await until('raised', async () => {
      clock.pass(1);
      return (await incidentsOfAlarm(house, alarm)).length > 0;
    });
    const { version, check } = await stored(made.id);
    await saveCheck(house.bussola, made.id, version, { ...check, enabled: false }, 'Kaja Tamm');
    await until('over', async () => {
      clock.pass(1);
      return (await incidentsOfAlarm(house, alarm))[0]?.closedAt !== null;
    });
    expect((await stored(made.id)).last, 'no attempt is made').to.equal(null);
    house.standIns.front.behaving.timetable = 'well';
    await removeCheck(house.bussola, made.id);
  }).timeout(180_000);

  it('that nobody has looked at for long are not said to be up', async () => {
    const { db, clock } = house.bussola;
    const made = await addCheck(house.bussola, checkOf('Summer timetable'), 'Kaja Tamm');
    await tried(made.id);
    const of = async (later: number) =>
      (await measureChecks(db, after(clock.now(), times(later, minute)))).series.filter(
        ({ metric, resource }) => metric === 'check.up' && resource === `check/${made.id}`
      ).length;
    expect([await of(1), await of(5), await of(6)]).to.deep.equal([1, 1, 0]);
    await removeCheck(house.bussola, made.id);
  }).timeout(90_000);

  it('are claimed by one process at a time, and made again when that one is gone or the clock was set back', async () => {
    const { db, clock } = house.bussola;
    // Off, so that the process of this test does not take it.
    const { id } = await addCheck(house.bussola, checkOf('Desk', { enabled: false }), 'Kaja Tamm');
    await db.rows(
      `update reachability_checks set definition = definition || '{"enabled": true}', due_at = $2 where id = $1`,
      [id, after(clock.now(), times(30, minute))]
    );
    const at = after(clock.now(), times(2, hour));
    const claim = async (from: typeof at) => (await claimDue(db, from, after(from, minute), 5)).map((one) => one.id);
    expect(await claim(at)).to.deep.equal([id]);
    expect(await claim(at), 'it is claimed').to.deep.equal([]);
    await releaseClaim(db, await stored(id));
    expect(await claim(at), 'that process let go of it').to.deep.equal([id]);
    expect(await claim(after(at, times(2, minute))), 'that process is gone').to.deep.equal([id]);
    await db.rows('update reachability_checks set tried_at = $2, due_at = $2, claimed_until = null where id = $1', [
      id,
      after(at, times(9, hour))
    ]);
    expect(await claim(at), 'the clock was set back').to.deep.equal([id]);
    await removeCheck(house.bussola, id);
  }).timeout(90_000);

  it('are changed only as they were seen, and what is under way of the old one does not count', async () => {
    const made = await addCheck(house.bussola, checkOf('Fares', { enabled: false }), 'Kaja Tamm');
    const saved = await saveCheck(house.bussola, made.id, made.version, checkOf('Fares 2'), 'Ivo Brandt');
    const refused = await saveCheck(house.bussola, made.id, made.version, checkOf('Fares 3'), 'Oda Lind').catch(
      (error: unknown) => error
    );
    expect(isRefused(refused, 'changed-meanwhile')).to.equal(true);
    const one = await tried(saved.id);
    expect(one.check.name).to.equal('Fares 2');
    await removeCheck(house.bussola, made.id);
    const gone = await removeCheck(house.bussola, made.id).catch((error: unknown) => error);
    expect(isRefused(gone, 'not-found')).to.equal(true);
  }).timeout(90_000);

  it('beside them every resource of a provider is up, silent or down', async () => {
    const machines = await connectMachines(house);
    await connect(house, 'corallo-staging', { keyId: 'LEVK-CORALLO-STAGING', secret: 'no such secret' });
    await liveMinutes(house, machines, 2);
    await until('up', async () => (await values('resource.up', named('gate-api-1')))[0]?.values.includes(1));
    stressMachine(house, 'gate-api-1', null, 60);
    await liveMinutes(house, machines, 12);
    await until('silent', async () => (await values('resource.up', named('gate-api-1')))[0]?.values.at(-1) === 0);
    const [overdue] = await values('resource.overdue', named('gate-api-1'));
    expect(overdue?.values.at(-1)).to.be.above(300);
    expect((await values('resource.up', named('gate-api-2')))[0]?.values.at(-1)).to.equal(1);
    const [silent] = await values('resources.counted', { label: 'state', is: ['silent'] });
    expect(silent?.values.at(-1)).to.equal(1);
  }).timeout(180_000);
});

describe('a reachability check that hangs', () => {
  const house = withHouse();

  it('does not keep the process: it is broken off, and counts for nothing', async () => {
    const { bussola, standIns } = house;
    standIns.front.behaving.timetable = 'silent';
    const target = { kind: 'http', url: `${standIns.url}/front/sites/timetable` };
    const { id } = await addCheck(
      bussola,
      checkSchema.parse({ name: 'Timetable', target, within: 30, retries: 0 }),
      'a test'
    );
    await until('an attempt that is under way', async () => {
      const [row] = await bussola.db.rows<{ until: number | null }>(
        'select claimed_until as until from reachability_checks where id = $1',
        [id]
      );
      return row !== undefined && row.until !== null;
    });
    await bussola.close(); // of the thirty seconds that the check may take, mocha waits for half
  }).timeout(60_000);
});

import { drawnLimits } from '../../core/alarm';
import { plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import {
  connect,
  connectMachines,
  incidentsOfAlarm,
  liveMinutes,
  machineNamed,
  processorAlarm,
  withHouse
} from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { isRefused } from '../../core/problem/problem';
import { acknowledge, unacknowledge } from './acknowledge';
import { eventsOfIncident, unhandledSubjects } from './events';
import { incidentById, type Incident } from './incidents';
import { openIncidents, openIncidentsAfter } from './open';
import { incidentsIn } from './span';
import type { Board, PanelContent } from '../../core/board';
import { addPanel } from '../../core/board';
import { plainSignal } from '../../core/signal';
import { instant, minute, range } from '../../core/time';
import { seriesStates, statesOfResource, countStates, type Alarm } from '../alarms/alarms';
import { draftAlarm, withUnit } from '../alarms/draft';
import { watchedWords } from '../alarms/watched';
import { shownWith } from '../boards/shown';
import { saveGroup } from '../query/groups/save-group';
import { allMetrics } from '../inventory/metrics';
import { allResources } from '../inventory/resources';
import { insertMark } from '../marks/marks';
import { overview } from './overview';

/** What the pages say when one machine is in trouble and another is not. */
describe('what pages say', () => {
  const house = withHouse();
  let alarm: Alarm;
  const processor = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
  const boardOf = (...contents: object[]): Board =>
    contents.reduce<Board>(
      (board, content, i) => addPanel(board, { title: `Panel ${i}`, ...content } as PanelContent, `p${i}`)!,
      { title: 'Shown', pickers: [], sections: [], panels: [] }
    );

  before(async function () {
    this.timeout(180_000);
    const account = await connectMachines(house);
    alarm = await processorAlarm(house, 'booking-web-1');
    await processorAlarm(house, 'booking-web-2', {
      name: 'Processor of the second',
      rule: rule(2, 3, { levels: [threshold('above', 80, 'critical')] })
    });
    const from = house.clock.now();
    house.standIns.levante.stress({
      resource: machineNamed('booking-web-1').id,
      metric: 'all',
      value: 96,
      from,
      until: from + 60 * minute
    });
    await liveMinutes(house, account, 5);
    await until('raised', async () =>
      (await seriesStates(house.bussola.db, alarm.id)).some(({ state }) => state === 'raised')
    );
  });

  it('the frame of every page: how many are raised, of which service, how old the newest sample is', async () => {
    const told = await overview(house.bussola);
    expect(told.counts).to.deep.equal({ raised: 1, alarms: 2, unconfirmed: 0, failing: 0, troubled: 0 });
    expect(told.open.map(({ subject, severity }) => [subject, severity])).to.deep.equal([['booking-web-1', 'major']]);
    expect(told.services.find(({ service }) => service === 'machines')?.worst).to.equal('major');
    expect(told.services.filter(({ worst }) => worst !== null)).to.have.length(1);
    expect(told.now - (told.newest ?? 0)).to.be.within(0, 5 * minute);
    expect(told.storeReady).to.equal(true);
  });

  it('who looks after an incident is noted once, by the first, can be taken back, and is never notified', async () => {
    const { db } = house.bussola;
    const [open] = (await overview(house.bussola)).open;
    if (!open) throw new Error('nothing is open');
    const messages = async () => db.rows('select id from outbox order by id');
    const before = await messages();
    await acknowledge(house.bussola, open.id, 'Nerea');
    await acknowledge(house.bussola, open.id, 'Ivo');
    expect((await overview(house.bussola)).open[0]).to.deep.include({ id: open.id, acknowledgedBy: 'Nerea' });
    await unacknowledge(house.bussola, open.id, 'Nerea');
    expect(await incidentById(db, open.id)).to.deep.include({ acknowledgedBy: null, acknowledgedAt: null });
    const events = (await eventsOfIncident(db, open.id)).filter(({ kind }) => /acknowledged/.test(kind));
    expect(events.map(({ kind }) => kind)).to.deep.equal(['acknowledged', 'unacknowledged']);
    await until('both are handled', async () =>
      (await unhandledSubjects(db, 10)).every(({ incidentId }) => incidentId !== open.id)
    );
    expect(await messages()).to.deep.equal(before);
    const missing: unknown = await acknowledge(house.bussola, 999_999, 'Nerea').catch((error: unknown) => error);
    expect(isRefused(missing, 'not-found')).to.equal(true);
  });

  it('the search finds resources and alarms', async () => {
    const { findable } = await overview(house.bussola);
    expect(findable).to.deep.include({
      title: 'Processor nearly exhausted',
      kind: 'alarm',
      href: `/alarms/${alarm.id}`
    });
    const machine = findable.find(({ title }) => title === 'booking-web-1');
    expect(machine?.kind).to.equal('machine, corallo-prod');
  });

  it('the logbook has what was put this very moment, and nothing that comes later', async () => {
    const by = { name: 'Nerea', source: 'person' as const };
    const at = (ahead: number) => new Date(house.clock.now() + ahead).toISOString();
    await insertMark(house.bussola.db, { text: 'now', from: at(0) }, by, house.clock.now());
    await insertMark(house.bussola.db, { text: 'later', from: at(10 * minute) }, by, house.clock.now());
    expect((await overview(house.bussola)).logbook.marks.map(({ text }) => text)).to.deep.equal(['now']);
  });

  it('an account that cannot be reached is in trouble, and says so once', async () => {
    const { version } = await overview(house.bussola);
    await connect(house, 'broken', { secret: 'wrong' });
    await until('the refusal', async () => (await overview(house.bussola)).counts.troubled === 1);
    expect((await overview(house.bussola)).version, 'pages hear of it').to.be.above(version);
  });

  it('a board gets the metrics it picks, patterns too, and nothing else that it does not show', async () => {
    const lines = await shownWith(house.bussola, boardOf({ picture: 'lines', signal: processor }));
    expect(Object.keys(lines.metrics)).to.deep.equal(['machine.processor.use']);
    expect([lines.groups, lines.reporting]).to.deep.equal([[], []]);
    expect(lines.alarms[0]?.counts, 'states are counted for lists of alarms only').to.deep.equal({});
    const pattern = plainSignal({ metric: 'machine.network.*', statistic: 'avg' });
    const several = await shownWith(house.bussola, boardOf({ picture: 'lines', signal: pattern }));
    expect(Object.keys(several.metrics).sort()).to.deep.equal(['machine.network.in', 'machine.network.out']);
    const none = await shownWith(house.bussola, boardOf({ picture: 'text', text: 'Hello' }));
    expect(none.metrics).to.deep.equal({});
  });

  it('a list of alarms has the states of their series, and a limit for charts of their metric', async () => {
    const { alarms } = await shownWith(house.bussola, boardOf({ picture: 'alarms' }));
    expect(alarms.find(({ id }) => id === alarm.id)).to.deep.include({
      service: 'machines',
      metric: 'machine.processor.use',
      limits: [{ value: 80, severity: 'major' }],
      error: null,
      counts: { raised: 1 }
    });
  });

  it('a status list has each group with its members and the gravest that is open on them, by account', async () => {
    const rule = (matches: string) => ({ match: 'all' as const, conditions: [{ label: 'resource', matches }] });
    await saveGroup(house.bussola, null, { name: 'first', rule: rule('^booking-web-1$') }, 'Nerea');
    await saveGroup(house.bussola, null, { name: 'second', rule: rule('^booking-web-2$') }, 'Nerea');
    const groups = async () =>
      (await shownWith(house.bussola, boardOf({ picture: 'status', of: 'groups' }))).groups.map(
        ({ name, resources, worst }) => [name, resources, worst]
      );
    expect(await groups()).to.deep.equal([
      ['first', 1, 'major'],
      ['second', 1, null]
    ]);
    const { db } = house.bussola;
    const [is] = await db.rows<{ id: number; accountId: number; seriesId: number; labels: object }>(
      'select id, account_id as "accountId", series_id as "seriesId", labels from incidents where ended_at is null'
    );
    const moved = async (accountId: number | null, seriesId: number | null, labels: object) =>
      db.rows('update incidents set account_id = $2, series_id = $3, labels = $4 where id = $1', [
        ...[is?.id, accountId, seriesId, labels]
      ]);
    await moved(null, null, { resource: 'booking-web-1', account: 'another account' });
    expect((await groups())[0], 'a machine of that name elsewhere is another').to.deep.equal(['first', 1, null]);
    await moved(is?.accountId ?? null, is?.seriesId ?? null, is?.labels ?? {});
  });

  it('what stopped reporting is told by the newest sample of each resource', async () => {
    const { reporting } = await shownWith(house.bussola, boardOf({ picture: 'silent', within: 'PT15M' }));
    const machine = reporting.find(({ name }) => name === 'booking-web-1');
    expect(house.clock.now() - (machine?.newest ?? 0)).to.be.within(0, 5 * minute);
    expect(reporting.map(({ name }) => name)).to.deep.equal(
      (await allResources(house.bussola.db)).map(({ name }) => name)
    );
  });

  it('a resource has the states of what is watched of it alone', async () => {
    const { db } = house.bussola;
    const all = await allResources(db);
    const statesOf = async (name: string) =>
      (
        await statesOfResource(
          db,
          all.find((one) => one.name === name)!
        )
      ).map(({ alarm: of, state }) => [of, state]);
    expect(await statesOf('booking-web-1')).to.deep.equal([['Processor nearly exhausted', 'raised']]);
    expect(await statesOf('booking-web-2')).to.deep.equal([['Processor of the second', 'clear']]);
    expect(await statesOf('tariff-worker-1')).to.deep.equal([]);
    expect(await countStates(db)).to.have.deep.members([
      { alarmId: alarm.id, state: 'raised', count: 1 },
      { alarmId: alarm.id + 1, state: 'clear', count: 1 }
    ]);
  });

  describe('an alarm that is begun from a signal', () => {
    const draft = (signal: unknown) => draftAlarm(house.bussola, signal === null ? null : JSON.stringify(signal));

    it('has a name, a threshold that suits its unit, three of five windows and the list of routes', async () => {
      expect(await draft(processor)).to.deep.equal({
        name: 'High processor use',
        signal: processor,
        rule: rule(3, 5, { levels: [threshold('above', 80)] }),
        ...plainDetails,
        route: null
      });
    });

    it('of a metric without bounds stays above what was seen within a day', async () => {
      const { rule } = await draft(plainSignal({ metric: 'machine.network.in', statistic: 'avg' }));
      const [limit] = drawnLimits(rule);
      expect(rule.levels[0]?.condition).to.include({ kind: 'threshold', is: 'above' });
      expect(limit?.value).to.be.above(0);
    });

    it('of several rows knows the unit of what it watches', async () => {
      const pick = (name: string, metric: string) => ({
        name,
        metric,
        where: [],
        statistic: 'avg' as const
      });
      const formula = {
        version: 2,
        rows: [pick('a', 'machine.network.in'), pick('b', 'machine.network.out'), { name: 'both', formula: 'a + b' }],
        step: 'PT1M'
      } as never;
      const drafted = await draft(formula);
      expect([drafted.name, drafted.signal?.unit]).to.deep.equal(['High both', 'By/s']);
      expect((await withUnit(house.bussola, formula)).unit).to.equal('By/s');
      expect(watchedWords(drafted, await allMetrics(house.bussola.db))).to.deep.include({
        unit: 'By/s',
        samplingMs: 60_000
      });
    });

    it('from an address that cannot be read is that of the first panel', async () => {
      for (const text of ['{', '[]', '{"version":99}', '"<script>"'])
        expect((await draftAlarm(house.bussola, text)).signal, text).to.deep.equal(processor);
      expect((await draftAlarm(house.bussola, null)).signal).to.deep.equal(processor);
    });

    it('of what is not known says so by its name alone', async () => {
      const drafted = await draft(plainSignal({ metric: 'no.such.metric', statistic: 'avg' }));
      expect(drafted.name).to.equal('High no.such.metric');
    });
  });

  it('everything that is open is counted and the gravest of it shown first, however much it is and however old', async () => {
    const { db, clock } = house.bussola;
    const old = clock.now() - 30 * 86_400_000;
    await db.rows(
      `insert into incidents (alarm_id, alarm_name, key, labels, severity, gravest, opened_at)
       select null, 'many', 'many ' || i, jsonb_build_object('service', 'queues'), case when i = 1 then 'critical' else 'minor' end, 'critical', $1::bigint + i
       from generate_series(1, 604) as i`,
      [old]
    );
    try {
      const told = await overview(house.bussola);
      expect(told.counts.raised).to.equal(605);
      expect(told.services.map(({ service, worst }) => [service, worst])).to.deep.include(['machines', 'major']);
      expect(told.open.slice(0, 2).map(({ severity }) => severity)).to.deep.equal(['critical', 'major']);
      const pages = await Promise.all([0, 1, 2, 3, 4, 5, 6].map((page) => openIncidents(db, 100, page * 100)));
      expect(new Set(pages.flat().map(({ id }) => id)).size).to.equal(605);
      const walk = async (first: Incident[], next: (after: number) => Promise<Incident[]>): Promise<number[]> => {
        const ids: number[] = [];
        for (let page = first; page.length > 0; page = await next(page.at(-1)!.id))
          ids.push(...page.map(({ id }) => id));
        return ids;
      };
      const open = await walk(await openIncidents(db, 90), (after) => openIncidentsAfter(db, 90, after));
      expect(open).to.deep.equal(pages.flat().map(({ id }) => id));
      const all = range(instant(0), instant(9e12));
      const newest = await incidentsIn(db, all, 1000);
      expect(await walk(await incidentsIn(db, all, 90), (after) => incidentsIn(db, all, 90, after))).to.deep.equal(
        newest.map(({ id }) => id)
      );
    } finally {
      await db.rows(`delete from incidents where key like 'many %'`);
    }
  });

  it('one incident is open of the one that is raised', async () => {
    expect(await incidentsOfAlarm(house, alarm)).to.have.length(1);
  });
});

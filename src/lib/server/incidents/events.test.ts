import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident } from '../../../../tests/support/incidents';
import { severities, type Severity } from '../../core/alarm';
import { instant } from '../../core/time';
import { oneRow } from '../db/pool';
import {
  eventsOfIncidents,
  markHandled,
  noteByPerson,
  noteUnreached,
  unhandledEvents,
  unhandledSubjects
} from './events';

describe('what happened to incidents', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  const raised = (severity: Severity) => storeIncident(fixture.db, now, { severity, raisedAt: null });
  const order = async (most = 100) => (await unhandledSubjects(fixture.db, most)).map(({ incidentId }) => incidentId);
  afterEach(() => fixture.db.rows('truncate incidents, incident_events cascade'));

  it('is handled the gravest first, of these what was recorded first', async () => {
    const ids = new Map<Severity, number[]>();
    for (const severity of [...severities, ...severities])
      ids.set(severity, [...(ids.get(severity) ?? []), await raised(severity)]);
    const expected = severities.toReversed().flatMap((severity) => ids.get(severity) ?? []);
    expect(await order()).to.deep.equal(expected);
    expect(await order(3), 'so many at a time').to.deep.equal(expected.slice(0, 3));
  });

  it('what people did comes before what is raised, and an incident is one subject whatever happened to it', async () => {
    const critical = await raised('critical');
    const warning = await raised('warning');
    expect(await order()).to.deep.equal([critical, warning]);
    const opened = await unhandledEvents(fixture.db, [warning], []);
    await markHandled(
      fixture.db,
      opened.map(({ id }) => id),
      now
    );
    await noteByPerson(fixture.db, warning, 'acknowledged', now, 'Nerea Olmo');
    expect(await order(), 'its acknowledgement, once it is known').to.deep.equal([warning, critical]);
    await noteByPerson(fixture.db, critical, 'acknowledged', now, 'Nerea Olmo', 'Looking.');
    expect(await order()).to.deep.equal([warning, critical]);
    const [first, second] = await unhandledEvents(fixture.db, [critical], []);
    expect([first?.kind, second?.kind, second?.text]).to.deep.equal(['opened', 'acknowledged', 'Looking.']);
  });

  it('is of some incidents and of alarms that cannot be judged, and each is handled once', async () => {
    const [one, two] = [await raised('major'), await raised('minor')];
    const alarm = oneRow(
      await fixture.db.rows<{ id: number }>(
        `insert into alarms (name, definition, created_at, created_by, changed_at, changed_by)
         values ('Cannot be judged', '{}', $1, 'test', $1, 'test')
         returning id`,
        [now]
      )
    ).id;
    await fixture.db.rows(
      `insert into incident_events (alarm_id, kind, at, recorded_at) values ($1, 'unjudged', $2, $2)`,
      [...[alarm, now]]
    );
    expect(await unhandledSubjects(fixture.db, 1)).to.deep.equal([{ incidentId: null, alarmId: alarm }]);
    expect((await unhandledEvents(fixture.db, [one], [])).map(({ incidentId }) => incidentId)).to.deep.equal([one]);
    expect((await unhandledEvents(fixture.db, [], [alarm])).map(({ kind }) => kind)).to.deep.equal(['unjudged']);
    const all = await unhandledEvents(fixture.db, [one, two], [alarm]);
    expect(all.map(({ id }) => id)).to.deep.equal(all.map(({ id }) => id).toSorted((a, b) => a - b));
    await markHandled(
      fixture.db,
      all.map(({ id }) => id),
      now
    );
    expect(await unhandledSubjects(fixture.db, 10)).to.deep.equal([]);
    expect(await unhandledEvents(fixture.db, [one, two], [alarm])).to.deep.equal([]);
  });

  it('that nobody could be notified is noted once, and asks for nobody to be notified', async () => {
    const id = await raised('critical');
    await noteUnreached(fixture.db, id, now);
    await noteUnreached(fixture.db, id, now);
    const kinds = (await eventsOfIncidents(fixture.db, [id])).map(({ kind }) => kind);
    expect(kinds).to.deep.equal(['opened', 'unreached']);
    expect((await unhandledEvents(fixture.db, [id], [])).map(({ kind }) => kind)).to.deep.equal(['opened']);
  });
});

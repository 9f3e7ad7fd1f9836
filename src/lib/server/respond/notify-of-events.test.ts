import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident } from '../../../../tests/support/incidents';
import { instant } from '../../core/time';
import { Readers } from '../base/readers';
import { eventsOfIncident, unhandledSubjects } from '../incidents/events';
import { notifyOfEvents, type Notifier } from './notify-of-events';

describe('what has happened to many incidents', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  /** There is no route, so that nothing is sent: that nobody could be notified is noted instead. */
  const notifier = () => ({
    db: fixture.db,
    readers: new Readers(),
    clock: { now: () => now },
    delivery: null as unknown as Notifier['delivery']
  });

  it('is handled although more of them fail than are looked at in one go, and each that fails says so', async () => {
    const { db } = fixture;
    const failing: number[] = [];
    for (let index = 0; index < 205; index++)
      failing.push(await storeIncident(db, now, { severity: 'critical', raisedAt: null }));
    const last = await storeIncident(db, now, { severity: 'warning', raisedAt: null });
    await db.rows(`create function refuse() returns trigger language plpgsql as $$ begin raise 'refused'; end $$`);
    await db.rows(
      `create trigger refuse before update on incident_events for each row when (old.severity = 'critical') execute function refuse()`
    );
    const faults: string[] = [];
    const round = (passOver: number) => notifyOfEvents(notifier(), (subject) => faults.push(subject), passOver);
    expect(await round(0)).to.deep.equal({ more: true, failed: 200 });
    expect(
      (await eventsOfIncident(db, last)).map(({ kind }) => kind),
      'behind them'
    ).to.deep.equal(['opened']);
    expect(await round(200)).to.deep.equal({ more: false, failed: 5 });
    expect(faults.sort()).to.deep.equal(failing.map((id) => `incident ${id}`).sort());
    expect((await eventsOfIncident(db, last)).map(({ kind }) => kind)).to.deep.equal(['opened', 'unreached']);
    expect((await unhandledSubjects(db, 300)).map(({ incidentId }) => incidentId)).to.deep.equal(
      failing.toSorted((a, b) => a - b)
    );
    // Whatever was the matter is mended.
    await db.rows('drop trigger refuse on incident_events');
    expect(await round(0)).to.deep.equal({ more: true, failed: 0 });
    expect(await round(0)).to.deep.equal({ more: false, failed: 0 });
    expect(await unhandledSubjects(db, 10)).to.deep.equal([]);
  }).timeout(180_000);
});

import { expect } from 'chai';
import { alarm, rule } from '../../../../tests/support/alarm';
import { withDatabase } from '../../../../tests/support/database';
import { storeIncident } from '../../../../tests/support/incidents';
import { instant } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { incidentById } from '../incidents/incidents';
import { timelineOf } from './timeline';

describe('the timeline of an incident', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);

  it('says a value in the words of what was judged: how long there was no sample, a share in its unit', async () => {
    const { db } = fixture;
    const silent = rule(1, 1, { levels: [{ severity: 'major', condition: { kind: 'absence', for: 'PT15M' } }] });
    for (const [definition, value, unit, says] of [
      [{ ...alarm, name: 'Silent', rule: silent }, 32_340_000, '1', 'no sample for 8 h 59 min'],
      [{ ...alarm, name: 'Busy' }, 93.42, '%', '93.4 %']
    ] as const) {
      const { id: alarmId } = await insertAlarm(db, definition, 'test', now);
      const id = await storeIncident(db, now, { alarmId, unit, raisedAt: value });
      const asides = async () => {
        const incident = await incidentById(db, id);
        if (incident === null) throw new Error('it is gone');
        return (await timelineOf(db, incident)).map(({ text, aside }) => [text, aside]);
      };
      expect(await asides()).to.deep.equal([['Raised, major.', says]]);
      await db.rows('update alarms set removed_at = $2 where id = $1', [alarmId, now]);
      expect((await asides())[0]?.[0], 'once the alarm is gone, too').to.equal('Raised, major.');
      await db.rows('delete from incidents');
    }
  });
});

import { expect } from 'chai';
import { alarm } from '../../../../tests/support/alarm';
import { withDatabase } from '../../../../tests/support/database';
import { after, hour, minute, times, type Instant } from '../../core/time';
import { changeAlarm, insertAlarm } from './alarms';
import { leaseLength, memoryOfAlarm, postponeWork, saveWork, takeDue, wakeAll, wakeWaiting } from './alarm-work';
import { versionOfAlarm, versionsOfAlarm } from './versions';

describe('what engines have to judge', () => {
  const fixture = withDatabase();
  const now = times(400_000, hour) as number as Instant;
  let ids: number[];

  beforeEach(async () => {
    const { db } = fixture;
    await db.rows('delete from alarms');
    ids = [];
    for (let i = 0; i < 3; i++) ids.push((await insertAlarm(db, { ...alarm, name: `Alarm ${i}` }, 'test', now)).id);
  });
  const taken = async (holder: string, at = now, most = 10) =>
    (await takeDue(fixture.db, holder, at, most)).sort((a, b) => a.alarmId - b.alarmId);
  const judged = (dueAt: number, nextEnd = dueAt) => ({
    ...{ version: 1, memory: Uint8Array.of(1, 2, 3), dueAt: dueAt as Instant, nextEnd: nextEnd as Instant }
  });

  it('is due when it is made; what one engine has taken another does not get, until the lease is over', async () => {
    expect((await taken('a', now, 2)).length).to.equal(2);
    expect((await taken('b')).length).to.equal(1);
    expect(await taken('b', after(now, minute)), 'its own again, and no others').to.have.length(1);
    expect(await taken('b', after(now, (leaseLength + 1) as typeof leaseLength))).to.have.length(3);
  });

  it('an engine that lost its lease cannot write, whatever it judged', async () => {
    const { db } = fixture;
    const [own] = await taken('a', now, 1);
    const late = after(now, times(3, minute));
    const [other] = (await taken('b', late)).filter(({ alarmId }) => alarmId === own!.alarmId);
    expect(other!.fence).to.be.above(own!.fence);
    expect(await saveWork(db, own!, judged(now + hour))).to.equal(false);
    expect(await memoryOfAlarm(db, own!.alarmId)).to.equal(null);
    expect(await saveWork(db, other!, judged(now + hour))).to.equal(true);
    expect([...(await memoryOfAlarm(db, own!.alarmId))!]).to.deep.equal([1, 2, 3]);
    await postponeWork(db, own!, now);
    expect((await taken('c', late)).map(({ alarmId }) => alarmId)).to.not.include(own!.alarmId);
  });

  it('samples make due what waits for a cell, and a change of what all depend on makes all due', async () => {
    const { db } = fixture;
    const all = await taken('a');
    await saveWork(db, all[0]!, judged(now + 15_000, now - 1));
    await saveWork(db, all[1]!, judged(now + minute, now + minute));
    await saveWork(db, all[2]!, judged(now + minute, now + minute));
    expect(await taken('a')).to.deep.equal([]);
    await wakeWaiting(db, now);
    expect((await taken('a')).map(({ alarmId }) => alarmId)).to.deep.equal([ids[0]]);
    await wakeAll(db);
    expect(await taken('a')).to.have.length(3);
  });

  it('a clock that was set back by an hour holds nothing up', async () => {
    const { db } = fixture;
    await taken('a', after(now, hour));
    expect(await taken('b', now), 'leases of the time before').to.have.length(3);
    const ahead = after(now, times(2000, hour));
    for (const one of await taken('b', ahead)) await saveWork(db, one, judged(ahead));
    expect(await taken('b', now), 'what was due by that time').to.have.length(3);
  });

  it('an alarm keeps every definition that it had', async () => {
    const { db } = fixture;
    const [id] = ids as [number];
    await changeAlarm(db, id, { ...alarm, name: 'Renamed' }, 'Nerea', after(now, minute));
    expect(
      (await versionsOfAlarm(db, id)).map(({ version, by, definition }) => [version, by, definition.name])
    ).to.deep.equal([
      [2, 'Nerea', 'Renamed'],
      [1, 'test', 'Alarm 0']
    ]);
    expect((await versionOfAlarm(db, id, 1))?.definition.name).to.equal('Alarm 0');
    expect(await versionOfAlarm(db, id, 9)).to.equal(null);
  });
});

import { expect } from 'chai';
import { alarm } from '../../../../tests/support/alarm';
import { withDatabase } from '../../../../tests/support/database';
import { plainSignal } from '../../core/signal';
import { instant } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { insertBoardWithin } from '../boards/boards';
import { insertEmailChannel } from '../notify/channels';
import { insertSignal } from '../query/signals/signals';
import { insertPerson } from '../people/people';
import { restingKinds } from '../removals/resting';
import { kindsOfMade, madeBy } from './made';

describe('what somebody made', () => {
  const at = withDatabase();
  const [early, late] = [instant(1_777_000_000_000), instant(1_777_900_000_000)];
  let ids: Record<string, number>;
  const names = async (asked: Partial<Parameters<typeof madeBy>[1]> = {}) =>
    (await madeBy(at.db, { by: 'Nerea Olmo', since: early, text: '', readerId: ids['nerea'] ?? 0, ...asked }, 100)).map(
      ({ kind, name }) => `${kind} ${name}`
    );

  before(async () => {
    const { db } = at;
    const person = { role: 'editor', passwordHash: '', zone: 'UTC', createdAt: early } as const;
    const nerea = await insertPerson(db, { ...person, name: 'nerea', displayName: 'Nerea Olmo' });
    const oda = await insertPerson(db, { ...person, name: 'oda', displayName: 'Oda Berg' });
    ids = { nerea: nerea.id, oda: oda.id };
    await insertAlarm(db, { ...alarm, name: 'Old one' }, 'Nerea Olmo', early);
    await insertAlarm(db, { ...alarm, name: 'Trial alarm', labels: { team: 'quay' } }, 'Nerea Olmo', late);
    await insertAlarm(db, { ...alarm, name: 'Of another' }, 'Oda Berg', late);
    const board = { about: '', pickers: [], sections: [], panels: [] };
    await insertBoardWithin(db, { ...board, title: 'Trial board' }, nerea, late);
    await insertEmailChannel(db, {
      name: 'Trial mail',
      address: 'a@example.test',
      createdAt: late,
      createdBy: 'Nerea Olmo'
    });
    const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
    await insertSignal(db, 'Trial signal', signal, 'Nerea Olmo', late);
  });

  it('is listed by who made it and since when, the newest first', async () => {
    const all = await names();
    expect(all).to.include.members([
      ...['alarms Old one', 'alarms Trial alarm', 'boards Trial board', 'channels Trial mail']
    ]);
    expect(all.at(-1), 'the oldest').to.equal('alarms Old one');
    expect(all).not.to.include('alarms Of another');
    expect(await names({ since: late })).not.to.include('alarms Old one');
    expect(await names({ by: 'Oda Berg' })).to.deep.equal(['alarms Of another']);
    expect(await names({ by: 'nobody' })).to.deep.equal([]);
  });

  it('is narrowed by a part of a name, or a label, in any letter case', async () => {
    expect(await names({ text: 'TRIAL ' })).to.include.members(['alarms Trial alarm', 'signals Trial signal']);
    expect(await names({ text: 'team=quay' })).to.deep.equal(['alarms Trial alarm']);
    expect(await names({ text: `%' or true --` })).to.deep.equal([]);
  });

  it('leaves out private boards of others, and what is removed', async () => {
    await at.db.rows(`update boards set reach = 'private'`);
    expect(await names({ text: 'board' })).to.deep.equal(['boards Trial board']);
    expect(await names({ text: 'board', readerId: ids['oda'] ?? 0 })).to.deep.equal([]);
    await at.db.rows(`update alarms set removed_at = $1 where name = 'Trial alarm'`, [late]);
    expect(await names({ text: 'trial alarm' })).to.deep.equal([]);
  });

  it('is of every kind that rests when it is removed', () => {
    expect([...kindsOfMade].sort()).to.deep.equal([...restingKinds.keys()].sort());
  });
});

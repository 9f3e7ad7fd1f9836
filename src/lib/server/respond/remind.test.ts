import { expect } from 'chai';
import { confirmedChannel, mailsTo, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { isRefused } from '../../core/problem/problem';
import { onCallAt, rotaSchema } from '../../core/rota';
import { dateAt, hour, instant } from '../../core/time';
import { giveChannel } from '../notify/channels';
import { insertPerson } from '../people/people';
import { addRota, answerSwap, askSwap } from '../rotas/manage-rotas';
import { overridesIn } from '../rotas/rotas';
import { remindOfShifts } from './remind';

describe('people with a watch', () => {
  const house = withHouse();
  const noFault = (_subject: string, error: unknown) => {
    throw error;
  };

  async function personNamed(name: string) {
    const { bussola, clock } = house;
    const person = await insertPerson(bussola.db, {
      ...{ name, displayName: `${name} Tamm`, role: 'viewer', passwordHash: '', zone: 'Europe/Rome' },
      createdAt: clock.now()
    });
    await giveChannel(bussola.db, await confirmedChannel(house, `${name}@example.test`), person.id);
    return person;
  }

  it('are reminded once before it begins, and not of what they have already', async () => {
    const { bussola, clock } = house;
    const [a, b] = [await personNamed('anni'), await personNamed('bo')];
    const now = clock.now();
    const at = new Date(now + 2 * hour).toISOString().slice(11, 16);
    const rota = rotaSchema.parse({
      ...{ name: 'Machines', zone: 'UTC' },
      layers: [{ people: [a.id, b.id], days: 1, from: dateAt(instant(now - 22 * hour), 'UTC'), at }]
    });
    const begin = instant(now + 2 * hour);
    const [before, after] = [onCallAt(rota, [], now), onCallAt(rota, [], begin)];
    expect(new Set([before, after])).to.deep.equal(new Set([a.id, b.id]));
    await addRota(bussola, rota, 'test');
    for (let look = 0; look < 3; look++) await remindOfShifts(bussola, noFault);
    expect([...mailsTo(house, 'anni@example.test'), ...mailsTo(house, 'bo@example.test')]).to.deep.equal([]);
    clock.pass(65);
    for (let look = 0; look < 3; look++) await remindOfShifts(bussola, noFault);
    const reminded = after === a.id ? 'anni' : 'bo';
    const [mail] = await until('the mail', () => {
      const mails = mailsTo(house, `${reminded}@example.test`);
      return mails.length > 0 && mails;
    });
    expect(mail?.subject).to.equal('Your watch for Machines begins soon');
    expect(mail?.text, 'by the clocks of whoever reads it').to.match(
      /From: +\d{4}-\d\d-\d\d \d\d:\d\d:\d\d \+0[12]:00/
    );
    expect([...mailsTo(house, 'anni@example.test'), ...mailsTo(house, 'bo@example.test')]).to.have.length(1);
  }).timeout(90_000);

  it('are asked for a swap by mail; only whoever was asked accepts it, once, and then it counts', async () => {
    const { bussola, clock } = house;
    const [a, b] = [await personNamed('cara'), await personNamed('dan')];
    const now = clock.now();
    const rota = rotaSchema.parse({
      ...{ name: 'Network', zone: 'UTC' },
      layers: [{ people: [a.id], days: 7, from: dateAt(instant(now - 24 * hour), 'UTC'), at: '00:00' }]
    });
    const { id } = await addRota(bussola, rota, 'test');
    const span = { from: instant(now + 24 * hour), to: instant(now + 36 * hour) };
    const refused: unknown = await askSwap(bussola, id, { ...span, askedOf: a.id }, b).catch((error: unknown) => error);
    expect(isRefused(refused, 'invalid')).to.equal(true);
    const swap = await askSwap(bussola, id, { ...span, askedOf: b.id }, a);
    await until('the mail', () => mailsTo(house, 'dan@example.test').length === 1);
    expect(mailsTo(house, 'dan@example.test')[0]?.subject).to.equal(
      'cara Tamm asks you to take over the watch for Network'
    );
    const other: unknown = await answerSwap(bussola, swap, 'accepted', a).catch((error: unknown) => error);
    expect(isRefused(other, 'not-allowed')).to.equal(true);
    const answers = await Promise.all(
      [1, 2].map(() =>
        answerSwap(bussola, swap, 'accepted', b).then(
          () => 'yes',
          () => 'no'
        )
      )
    );
    expect(answers.sort()).to.deep.equal(['no', 'yes']);
    const overrides = (await overridesIn(bussola.db, span)).filter(({ rotaId }) => rotaId === id);
    expect(overrides.map(({ from, to, personId }) => ({ from, to, personId }))).to.deep.equal([
      { ...span, personId: b.id }
    ]);
    await until('the answer', () => mailsTo(house, 'cara@example.test').length === 1);
  }).timeout(90_000);
});

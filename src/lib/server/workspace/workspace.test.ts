import { expect } from 'chai';
import { confirmedChannel, mailsTo, withHouse } from '../../../../tests/support/bussola';
import {
  codeOfRefusal as codeOf,
  from,
  good,
  newPerson,
  signedIn,
  tokenInMail
} from '../../../../tests/support/people';
import { until } from '../../../../tests/support/until';
import { day, hour, minute, times } from '../../core/time';
import type { Role } from '../../core/people/rights';
import { isRefused } from '../../core/problem/problem';
import { layerSchema, rotaSchema } from '../../core/rota';
import { routeSchema } from '../../core/notify/route';
import { allChannels, giveChannel } from '../notify/channels';
import { countPeople, personForSignIn } from '../people/people';
import { sessionOf } from '../people/sessions';
import { addRota } from '../rotas/manage-rotas';
import { insertOverride, overridesIn, rotaById } from '../rotas/rotas';
import { insertRoute, routeById } from '../routing/routes';
import { firstLink, makeFirst } from './first-start';
import { askForReset, invite, inviteAgain, setPasswordByLink, whoseLink } from './invite';
import { changePerson, disablePerson, enablePerson } from './manage-people';
import { addTeam, allTeams, changeTeam, removeTeam } from './teams';

describe('people of a workspace', () => {
  const house = withHouse();
  let kaja = 0;

  const tokenIn = (to: string, path: string) => tokenInMail(house, to, path);
  const person = (name: string, role?: Role) => newPerson(house, name, role);
  const ownOf = (name: string) => signedIn(house, name);

  it('begin with one who has the link of the console; the link of an earlier start, and a used one, let nobody in', async () => {
    const { bussola } = house;
    const entered = {
      ...{ name: 'kaja', displayName: 'Kaja Tamm', mail: 'kaja@example.test', zone: 'Europe/Rome', password: good }
    };
    const [early, now] = [
      await firstLink(bussola.db, bussola.clock, ''),
      await firstLink(bussola.db, bussola.clock, '')
    ];
    const [earlier, token] = [early, now].map((link) => link?.replace('/first/', '') ?? '');
    expect(await codeOf(makeFirst(bussola, earlier ?? '', entered))).to.equal('not-found');
    expect(await codeOf(makeFirst(bussola, token ?? '', { ...entered, password: 'kaja tamm 1' }))).to.equal('invalid');
    const both = await Promise.all([
      codeOf(makeFirst(bussola, token ?? '', entered)),
      codeOf(makeFirst(bussola, token ?? '', { ...entered, name: 'second', mail: 'second@example.test' }))
    ]);
    expect(both.sort()).to.deep.equal(['done', 'not-found']);
    expect(await countPeople(bussola.db)).to.equal(1);
    expect(await firstLink(bussola.db, bussola.clock, '')).to.equal(null);
    const [only] = await bussola.db.rows<{ id: number; role: string }>('select id, role from people');
    expect(only?.role).to.equal('administrator');
    kaja = only?.id ?? 0;
    const alarms = await bussola.db.rows<{ name: string; by: string }>(
      'select name, created_by as by from alarms order by id'
    );
    expect(alarms.map(({ name }) => name)).to.include.members(['Bussola judges late', 'Messages wait to be sent']);
    expect(alarms).to.have.length(7);
    expect(new Set(alarms.map(({ by }) => by))).to.deep.equal(new Set(['Bussola']));
  });

  it('are invited by mail: the newest link lets them in once, and confirms their address', async () => {
    const { bussola } = house;
    const by = { id: kaja, displayName: 'Kaja Tamm' };
    const data = await addTeam(bussola, 'Data', 'Kaja Tamm');
    const invitation = { name: 'mira', displayName: 'Mira Voss', mail: 'mira@example.test', role: 'editor' as const };
    const mira = await invite(bussola, { ...invitation, teamIds: [data.id] }, by);
    await until('the mail', () => mailsTo(house, 'mira@example.test').length === 1);
    const first = tokenIn('mira@example.test', '/join/');
    await inviteAgain(bussola, mira.id, by);
    await until('the second mail', () => mailsTo(house, 'mira@example.test').length === 2);
    const second = tokenIn('mira@example.test', '/join/');
    expect(second).not.to.equal(first);
    expect(await codeOf(whoseLink(bussola, 'invitation', first))).to.equal('not-found');
    expect((await whoseLink(bussola, 'invitation', second)).name).to.equal('mira');
    expect(await codeOf(whoseLink(bussola, 'reset', second)), 'another kind of link').to.equal('not-found');
    // What is sent with it is stored nowhere.
    const stored = await bussola.db.rows('select content::text, subject from outbox');
    const tried = await bussola.db.rows('select request, answer from delivery_attempts');
    expect(JSON.stringify([stored, tried])).not.to.contain(second);
    const entered = { password: good, zone: 'Europe/Rome' };
    expect(await codeOf(setPasswordByLink(bussola, 'invitation', second, { ...entered, password: 'mira' }))).to.equal(
      'invalid'
    );
    await setPasswordByLink(bussola, 'invitation', second, entered);
    expect(await codeOf(setPasswordByLink(bussola, 'invitation', second, entered))).to.equal('not-found');
    const channel = (await allChannels(bussola.db)).find(({ personId }) => personId === mira.id);
    expect([channel?.address, channel?.confirmedAt !== null]).to.deep.equal(['mira@example.test', true]);
    expect((await allTeams(bussola.db)).find(({ id }) => id === data.id)?.memberIds).to.deep.equal([mira.id]);
    expect(await codeOf(inviteAgain(bussola, mira.id, by)), 'who has joined').to.equal('invalid');
    const again = invite(bussola, { ...invitation, mail: 'MIRA@example.test', name: 'mira2', teamIds: [] }, by);
    expect(await codeOf(again), 'the same address').to.equal('name-taken');
    house.clock.pass(0);
  });

  it('an invitation expires after a week', async () => {
    const { bussola } = house;
    const late = await invite(
      bussola,
      { name: 'late', displayName: 'Late', mail: 'late@example.test', role: 'viewer', teamIds: [] },
      { id: kaja, displayName: 'Kaja Tamm' }
    );
    await until('the mail', () => mailsTo(house, 'late@example.test').length === 1);
    const token = tokenIn('late@example.test', '/join/');
    expect((await whoseLink(bussola, 'invitation', token)).id).to.equal(late.id);
    house.clock.pass(times(7, day) / minute);
    expect(await codeOf(whoseLink(bussola, 'invitation', token))).to.equal('not-found');
  });

  it('reset their password by mail; nothing says who is there, and who was signed in is signed out', async () => {
    const { bussola } = house;
    const own = await ownOf('mira');
    const before = mailsTo(house, 'mira@example.test').length;
    await askForReset(bussola, 'nobody@example.test', '192.0.2.1');
    await askForReset(bussola, 'Mira@example.test', '192.0.2.1');
    await until('the mail', () => mailsTo(house, 'mira@example.test').length === before + 1);
    const token = tokenIn('mira@example.test', '/reset/');
    await setPasswordByLink(bussola, 'reset', token, { password: 'eleven gulls upon a mast' });
    expect(await sessionOf(bussola.db, own.token, house.clock.now())).to.equal(null);
    const signIn = (password: string) =>
      bussola.signIn.withPassword(bussola.db, 'mira@example.test', password, from, house.clock.now());
    expect((await signIn(good)).kind).to.equal('wrong');
    expect((await signIn('eleven gulls upon a mast')).kind).to.equal('signed in');
    // An hour later a link is over.
    await askForReset(bussola, 'mira', '192.0.2.1');
    await until('another mail', () => mailsTo(house, 'mira@example.test').length === before + 2);
    const other = tokenIn('mira@example.test', '/reset/');
    house.clock.pass(hour / minute);
    expect(await codeOf(setPasswordByLink(bussola, 'reset', other, { password: good }))).to.equal('not-found');
    const many = await Promise.all(Array.from({ length: 5 }, () => codeOf(askForReset(bussola, 'mira', '192.0.2.2'))));
    expect(many).to.include('too-many-requests');
  });

  it('what waits for somebody is withdrawn when they are disabled', async () => {
    const { bussola, clock, standIns } = house;
    const { db, delivery } = bussola;
    const someone = await person('waiting');
    const channelId = await confirmedChannel(house, 'waiting@example.test');
    await giveChannel(db, channelId, someone.id);
    standIns.mailbox.behaving.current = 'refuse';
    const content = { kind: 'written', subject: 'For whoever waits', text: 't' } as const;
    const common = { channelId, content, priority: 1, createdAt: clock.now(), incidentId: null, alarmId: null };
    const id = await db.transaction((within) => delivery.enqueue(within, { ...common, personId: someone.id }));
    const state = async () =>
      (
        await db.rows<{ state: string; tried: boolean }>(
          'select state, last_error is not null as tried from outbox where id = $1',
          [id]
        )
      )[0];
    await until('it was tried', async () => (await state())?.tried);
    await disablePerson(bussola, someone.id, null, 'Kaja Tamm');
    expect((await state())?.state).to.equal('withdrawn');
    standIns.mailbox.behaving.current = 'well';
    clock.pass(20);
    // One that leaves by the same queue after it shows that the first does not.
    const last = await confirmedChannel(house, 'after@example.test');
    await db.transaction((within) => delivery.enqueue(within, { ...common, channelId: last }));
    await until('the next', () => mailsTo(house, 'after@example.test').length === 1);
    expect(mailsTo(house, 'waiting@example.test')).to.deep.equal([]);
  }).timeout(90_000);

  it('the last administrator stays, also when two are changed at once', async () => {
    const { bussola } = house;
    expect(await codeOf(changePerson(bussola, kaja, { role: 'viewer', teamIds: [] }))).to.equal('in-use');
    expect(await codeOf(disablePerson(bussola, kaja, null, 'Kaja Tamm'))).to.equal('in-use');
    const second = await person('second-admin', 'administrator');
    const both = await Promise.all([
      codeOf(changePerson(bussola, kaja, { role: 'viewer', teamIds: [] })),
      codeOf(changePerson(bussola, second.id, { role: 'viewer', teamIds: [] }))
    ]);
    expect(both.sort()).to.deep.equal(['done', 'in-use']);
  });

  it('who is disabled is out at once, and their turns, shifts to come and places in routes are somebody else’s', async () => {
    const { bussola } = house;
    const [leaver, stays] = [await person('leaver'), await person('stays')];
    const own = await ownOf('leaver');
    const layer = layerSchema.parse({ people: [leaver.id, kaja], days: 7, from: '2026-05-04', at: '08:00' });
    const rota = await addRota(
      bussola,
      rotaSchema.parse({ name: 'Bridge', zone: 'UTC', layers: [layer] }),
      'Kaja Tamm'
    );
    const written = { at: house.clock.now(), by: 'Kaja Tamm' };
    const span = { from: house.clock.now(), to: (house.clock.now() + 2 * day) as never };
    await insertOverride(bussola.db, { rotaId: rota.id, ...span, personId: leaver.id, reason: '' }, written);
    const both = [leaver.id, stays.id].map((personId) => ({ kind: 'person', personId, by: ['email'] }));
    const made = routeSchema.parse({
      name: 'Direct',
      zone: 'UTC',
      when: {},
      group: { by: 'incident', wait: 0, atMostEvery: 0 },
      steps: [{ after: 0, notify: both }]
    });
    const route = await insertRoute(bussola.db, made, 'named', written);
    const refused: unknown = await disablePerson(bussola, leaver.id, null, 'Kaja Tamm').catch(
      (error: unknown) => error
    );
    expect(isRefused(refused, 'in-use')).to.equal(true);
    expect((refused as Error).message).to.equal('They are in the rota Bridge, the route Direct, shifts to come.');
    expect(await codeOf(disablePerson(bussola, leaver.id, leaver.id, 'Kaja Tamm'))).to.equal('invalid');
    await disablePerson(bussola, leaver.id, stays.id, 'Kaja Tamm');
    expect((await rotaById(bussola.db, rota.id))?.rota.layers[0]?.people).to.deep.equal([stays.id, kaja]);
    expect((await overridesIn(bussola.db, span)).map(({ personId }) => personId)).to.deep.equal([stays.id]);
    expect((await routeById(bussola.db, route.id))?.route.steps[0]?.notify).to.deep.equal([
      { kind: 'person', personId: stays.id, by: ['email'] }
    ]);
    expect(await sessionOf(bussola.db, own.token, house.clock.now())).to.equal(null);
    expect(await personForSignIn(bussola.db, 'leaver')).to.equal(null);
    await enablePerson(bussola, leaver.id);
    expect((await personForSignIn(bussola.db, 'leaver'))?.id).to.equal(leaver.id);
  });

  it('teams have members who are there; what a removed team owned is nobody’s', async () => {
    const { bussola } = house;
    const team = await addTeam(bussola, 'Network', 'Kaja Tamm');
    expect(await codeOf(addTeam(bussola, 'network', 'Kaja Tamm'))).to.equal('name-taken');
    expect(await codeOf(changeTeam(bussola, team.id, { name: 'Network', memberIds: [kaja, 9999] }))).to.equal(
      'invalid'
    );
    expect((await changeTeam(bussola, team.id, { name: 'Nets', memberIds: [kaja] })).memberIds).to.deep.equal([kaja]);
    const layer = layerSchema.parse({ people: [kaja], days: 7, from: '2026-05-04', at: '08:00' });
    const owned = rotaSchema.parse({ name: 'Nets', zone: 'UTC', layers: [layer], teamId: team.id });
    const rota = await addRota(bussola, owned, 'Kaja Tamm');
    expect((await allTeams(bussola.db)).find(({ id }) => id === team.id)?.rotas).to.deep.equal([
      { id: rota.id, name: 'Nets' }
    ]);
    await removeTeam(bussola, team.id);
    expect((await rotaById(bussola.db, rota.id))?.rota.teamId).to.equal(null);
    expect(await codeOf(removeTeam(bussola, team.id))).to.equal('not-found');
  });
});

import { expect } from 'chai';
import { confirmedChannel, routeTo, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { readOnCallFile } from '../../core/notify/on-call-file';
import { routeSchema } from '../../core/notify/route';
import { rotaSchema } from '../../core/rota';
import { allChannels, draftOf, insertChannel } from '../notify/channels';
import { insertPerson } from '../people/people';
import { allRotas, insertRota } from '../rotas/rotas';
import { allRoutes, isListed } from '../routing/routes';
import { addRoute } from './manage-routes';
import { applyOnCallFile, onCallAsFile, planOnCallFile } from './on-call-files';

describe('routes, rotas and channels as a file', () => {
  const house = withHouse();
  const listed = async () =>
    (await allRoutes(house.bussola.db)).filter((one) => isListed(one)).map(({ route }) => route.name);
  const refusalOf = (work: Promise<unknown>) =>
    work.then(
      () => null,
      (error: unknown) => error as { message: string }
    );

  before(async () => {
    const { db, secrets } = house.bussola;
    const by = { at: house.clock.now(), by: 'test' };
    for (const [name, displayName] of [
      ['mira', 'Mira Voss'],
      ['ivo', 'Ivo Brandt']
    ] as const)
      await insertPerson(db, { name, displayName, role: 'editor', zone: 'UTC', passwordHash: null, createdAt: by.at });
    const [mira, ivo] = await db.rows<{ id: number }>('select id from people order by name desc');
    const rota = rotaSchema.parse({
      ...{ name: 'Data', zone: 'Europe/Rome' },
      layers: [{ people: [mira!.id, ivo!.id], days: 7, from: '2026-05-04', at: '08:00' }]
    });
    const { id: rotaId } = await insertRota(db, rota, by);
    const channelId = await confirmedChannel(house, 'harbour@example.test');
    const hook = {
      kind: 'chat-hook',
      name: '#bridge',
      address: 'https://chat.example.test/hooks/T5p0rt',
      template: ''
    } as const;
    await insertChannel(db, secrets, draftOf(hook), by);
    const usual = { when: {}, zone: 'UTC', group: { by: 'incident' as const, wait: 0, atMostEvery: 0 } };
    for (const [name, place] of [
      ['Data', 'list'],
      ['Network', 'list'],
      ['Everything else', 'last']
    ] as const)
      await addRoute(
        house.bussola,
        routeSchema.parse({
          ...{ ...usual, name },
          steps: [
            {
              after: 0,
              notify: [
                { kind: 'rota', rotaId, by: ['email'] },
                { kind: 'channel', channelId }
              ]
            }
          ]
        }),
        place,
        'test'
      );
  });

  it('names people, rotas and channels by their names, and holds no secret', async () => {
    const text = await onCallAsFile(house.bussola.db, 'yaml');
    expect(text).to.contain('- ivo').and.contain('rota: Data').and.contain('channel: harbour@example.test');
    expect(text, 'the address of a chat hook is a secret').not.to.contain('T5p0rt');
    expect(readOnCallFile(text).kind).to.equal('read');
    const plan = await planOnCallFile(house.bussola, text);
    expect(plan.things.flatMap(({ differences, problems }) => [...differences, ...problems])).to.deep.equal([]);
    expect([plan.reorders, plan.things.every(({ id }) => id !== null)]).to.deep.equal([false, true]);
    const same = await applyOnCallFile(house.bussola, await onCallAsFile(house.bussola.db, 'json'), {
      id: 1,
      displayName: 'Mira Voss'
    });
    expect(same.applied, 'what is as the file says is not touched').to.equal(0);
  });

  it('is planned in words and applied whole: changes, new things, and the order of the list', async () => {
    const { db } = house.bussola;
    const text = (await onCallAsFile(db, 'yaml'))
      .replace('zone: Europe/Rome', 'zone: Europe/Athens')
      .replace('rotas:', '  - kind: email\n    name: Pier\n    address: pier@example.test\nrotas:')
      .replace(
        /routes:\n/,
        'routes:\n  - name: Pier first\n    when: { severities: [critical] }\n    steps: [{ after: 0, notify: [{ channel: Pier }] }]\n    group: { by: incident, wait: 0, atMostEvery: 0 }\n    zone: UTC\n'
      );
    const plan = await planOnCallFile(house.bussola, text);
    const news = plan.things.filter(({ id, differences }) => id === null || differences.length > 0);
    expect(news).to.deep.equal([
      { kind: 'channel', name: 'Pier (email)', id: null, differences: [], problems: [] },
      { ...plan.things.find(({ kind }) => kind === 'rota'), differences: ['zone: Europe/Rome → Europe/Athens'] },
      { kind: 'route', name: 'Pier first', id: null, differences: [], problems: [] }
    ]);
    expect(plan.reorders).to.equal(true);
    expect(await listed(), 'a plan changes nothing').to.deep.equal(['Data', 'Network', 'Everything else']);
    const { applied } = await applyOnCallFile(house.bussola, text, { id: 1, displayName: 'Mira Voss' });
    expect(applied).to.equal(3);
    expect(await listed()).to.deep.equal(['Pier first', 'Data', 'Network', 'Everything else']);
    const [rota] = await allRotas(db);
    expect([rota?.rota.zone, rota?.changedBy]).to.deep.equal(['Europe/Athens', 'Mira Voss']);
    const pier = (await allChannels(db)).find(({ name }) => name === 'Pier');
    expect([pier?.confirmedAt, pier?.personId]).to.deep.equal([null, null]);
    await until('it is asked', () => house.standIns.mailbox.mails.some(({ to }) => to.includes('pier@example.test')));
    expect((await planOnCallFile(house.bussola, text)).things.every(({ id }) => id !== null)).to.equal(true);
  });

  it('is not applied at all where something of it is not here, and says what', async () => {
    const { db } = house.bussola;
    const text = await onCallAsFile(db, 'yaml');
    const cases: [string, RegExp, string][] = [
      ['a person', /- ivo/, 'There is no person “nobody” here.'],
      ['a rota', /rota: Data/, 'There is no rota “nobody” here.'],
      ['a channel', /channel: harbour@example.test/, 'There is no channel “nobody” here.']
    ];
    for (const [what, from, says] of cases) {
      const changed = text
        .replace(from, (found) => found.replace(/(- |: ).*/, '$1nobody'))
        .replace('atMostEvery: 0', 'atMostEvery: 60000');
      const plan = await planOnCallFile(house.bussola, changed);
      expect(
        plan.things.flatMap(({ problems }) => problems),
        what
      ).to.include(says);
      expect(
        (await refusalOf(applyOnCallFile(house.bussola, changed, { id: 1, displayName: 'x' })))?.message
      ).to.contain(says);
      expect(await onCallAsFile(db, 'yaml'), 'nothing was changed').to.equal(text);
    }
    const moved = text.replace('harbour@example.test\n', 'harbour@example.test\n    template: x\n');
    const [problem] = (await planOnCallFile(house.bussola, moved)).things.flatMap(({ problems }) => problems);
    expect(problem).to.contain('A channel is not changed by a file');
    const own = text.replace(
      'rotas:',
      '  - { kind: email, name: Mine, address: mine@example.test, person: ivo }\nrotas:'
    );
    expect((await planOnCallFile(house.bussola, own)).things.flatMap(({ problems }) => problems)).to.deep.equal([
      'It belongs to a person: people add their own addresses in their profile.'
    ]);
    const hook = text.replace('"#bridge"', '"#pier"');
    expect((await planOnCallFile(house.bussola, hook)).things.flatMap(({ problems }) => problems)).to.include(
      'Its address is a secret and not in the file: add it by hand under this name.'
    );
  });

  it('asks no more people at a time than somebody may by hand, and then changes nothing', async () => {
    const { db } = house.bussola;
    const text = await onCallAsFile(db, 'yaml');
    const many = Array.from(
      { length: 25 },
      (_, index) => `  - { kind: email, name: Many ${index}, address: many-${index}@example.test }`
    );
    const file = text.replace('rotas:', `${many.join('\n')}\nrotas:`);
    expect((await planOnCallFile(house.bussola, file)).things.flatMap(({ problems }) => problems)).to.deep.equal([]);
    const refused = await refusalOf(applyOnCallFile(house.bussola, file, { id: 7, displayName: 'Ivo Brandt' }));
    expect(refused).to.include({ code: 'too-many-requests' });
    expect(refused?.message).to.match(/^Enough links and codes have been sent for now/);
    expect(await onCallAsFile(db, 'yaml')).to.equal(text);
    expect(house.standIns.mailbox.mails.filter(({ to }) => to.some((one) => one.startsWith('many-')))).to.deep.equal(
      []
    );
  });

  it('that cannot be read names the lines at fault', async () => {
    const refused = (await refusalOf(
      planOnCallFile(house.bussola, 'kind: on-call\nversion: 1\nroutes:\n  - name: x\n')
    )) as unknown as {
      problems: { line: number; path: string }[];
    };
    expect(refused.problems.map(({ path }) => path)).to.include('routes.0.steps');
    const twice = 'kind: on-call\nversion: 1\nchannels:\n  - { kind: topic, name: a }\n  - { kind: topic, name: a }\n';
    expect(readOnCallFile(twice)).to.deep.include({ kind: 'unreadable' });
    expect(await routeTo(house, 'unrelated@example.test')).to.be.above(0);
  });
});

import { expect } from 'chai';
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { alarm } from '../../../../tests/support/alarm';
import { withDatabase } from '../../../../tests/support/database';
import { after, day, instant, minute, times } from '../../core/time';
import { insertAlarm } from '../alarms/alarms';
import { operations } from '../api/operations';
import { actsKept, forgetActs, listActs, recordAct, type NewAct } from './acts';
import { knownPageActs, wordsOfPageAct } from './page-acts';
import { recordPageAct } from './record-page-act';
import { namedKinds, noSubject, subjectOf } from './subjects';

const now = instant(1_777_881_600_000);
const act = (changed: Partial<NewAct> = {}): NewAct => ({
  ...{ at: now, personId: 3, by: 'Nerea Olmo', means: 'person', act: 'POST /rotas', what: 'Adds a rota' },
  ...{ subject: 'Bridge', path: '', id: null, outcome: 'done', address: '192.0.2.7' },
  ...changed
});
const all = { text: null, personId: null, outcome: null, from: null, to: null };

describe('what people did', () => {
  const fixture = withDatabase();

  it('is listed newest first, filtered by text, person, outcome and time', async () => {
    const { db } = fixture;
    await recordAct(db, act());
    await recordAct(db, act({ at: after(now, day), by: 'Ivo Brandt', personId: 4, what: 'Removes a rota' }));
    await recordAct(db, act({ personId: null, by: 'x%_\\', means: 'nobody', what: 'Signs in', outcome: 'refused' }));
    const found = async (filter: Partial<typeof all> | object) =>
      (await listActs(db, { ...all, ...filter }, 10, null)).map(({ by }) => by);
    expect(await found({})).to.deep.equal(['x%_\\', 'Ivo Brandt', 'Nerea Olmo']);
    expect(await found({ text: 'REMOVES' })).to.deep.equal(['Ivo Brandt']);
    expect(await found({ text: '%' }), 'text as it stands').to.deep.equal(['x%_\\']);
    expect(await found({ personId: 3 })).to.deep.equal(['Nerea Olmo']);
    expect(await found({ outcome: 'refused' })).to.deep.equal(['x%_\\']);
    expect(await found({ from: after(now, day) })).to.deep.equal(['Ivo Brandt']);
    expect(await found({ to: after(now, day) })).to.deep.equal(['x%_\\', 'Nerea Olmo']);
    const [newest] = await listActs(db, all, 1, null);
    expect((await listActs(db, all, 1, newest?.id ?? 0))[0]?.by).to.equal('Ivo Brandt');
  });

  it('of what is done again and again is written once in ten minutes, for each person and thing', async () => {
    const { db } = fixture;
    const saves = act({ act: 'PUT /boards/{id}', path: '/boards/3', by: 'saves' });
    await recordAct(db, saves, true);
    await recordAct(db, { ...saves, at: after(now, times(9, minute)) }, true);
    await recordAct(db, { ...saves, path: '/boards/4' }, true);
    await recordAct(db, { ...saves, personId: 4 }, true);
    await recordAct(db, { ...saves, outcome: 'refused' }, true);
    await recordAct(db, { ...saves, at: after(now, times(10, minute)) }, true);
    const found = await listActs(db, { ...all, text: 'saves' }, 10, null);
    expect(
      found.map(({ at, path, personId, outcome }) => [(at - now) / minute, path, personId, outcome])
    ).to.deep.equal([
      [10, '/boards/3', 3, 'done'],
      [0, '/boards/3', 3, 'refused'],
      [0, '/boards/3', 4, 'done'],
      [0, '/boards/4', 3, 'done'],
      [0, '/boards/3', 3, 'done']
    ]);
  });

  it('is changed and removed by nothing but its age, which the database sees to', async () => {
    const { db } = fixture;
    for (const statement of [
      "update acts set by = 'somebody else'",
      'delete from acts',
      'truncate acts',
      'delete from acts where id = 1'
    ]) {
      const error = await db.rows(statement).then(
        () => null,
        (refused: unknown) => refused
      );
      expect(String(error), statement).to.contain('acts are written once');
    }
    await forgetActs(db, after(now, actsKept));
    expect((await listActs(db, all, 10, null)).length).to.equal(8);
    await forgetActs(db, after(after(now, actsKept), times(2, day)));
    expect(await listActs(db, all, 10, null)).to.have.length(0);
    // The permission to forget ended with its transaction.
    await recordAct(db, act());
    expect(String(await db.rows('delete from acts').catch((error: unknown) => error))).to.contain('written once');
  });

  it('names of things are found for every kind that has one, and nothing else', async () => {
    for (const kind of namedKinds) expect(await subjectOf(fixture.db, kind, 7), kind).to.deep.equal(noSubject);
    for (const id of [NaN, 0, -1, 1.5, 2 ** 40])
      expect(await subjectOf(fixture.db, 'rotas', id)).to.deep.equal(noSubject);
    expect(await subjectOf(fixture.db, '__proto__', 1)).to.deep.equal(noSubject);
  });

  it('of a page names what it made, where it leads to it, and says whether it was refused', async () => {
    const { db } = fixture;
    const { id } = await insertAlarm(db, alarm, 'test', now);
    const made = { act: '/alarms/new?/save', what: 'Makes an alarm', subject: noSubject };
    const locals = { person: { id: 3, displayName: 'Nerea Olmo' }, address: '192.0.2.7' };
    const record = (response: Response, one = made) =>
      recordPageAct(db, { now: () => now }, { locals } as never, one, response);
    const newest = async () => (await listActs(db, all, 1, null))[0];
    const sentOn = (to: string) => new Response(null, { status: 303, headers: { location: to } });
    await record(sentOn(`/alarms/${id}?range=P1D`));
    expect(await newest()).to.include({ subject: alarm.name, path: `/alarms/${id}`, outcome: 'done' });
    // By a script, it is told in JSON.
    const told = (answer: object) => Response.json(answer);
    await record(told({ type: 'redirect', location: `/alarms/${id}`, status: 303 }));
    expect(await newest()).to.include({ subject: alarm.name, path: `/alarms/${id}` });
    for (const to of ['/alarms', '/alarms/999999', '//elsewhere.example.test/alarms/1', '/__proto__/1']) {
      await record(sentOn(to));
      expect(await newest(), to).to.include({ subject: '', path: '', outcome: 'done' });
    }
    await record(told({ type: 'failure', status: 400 }));
    expect(await newest()).to.include({ subject: '', outcome: 'refused' });
    // What it was about is that, wherever it leads.
    const removed = { ...made, act: '/groups/[id=number]?/remove', subject: { subject: 'Quays', path: '', id: 4 } };
    await record(sentOn(`/alarms/${id}`), removed);
    expect(await newest()).to.include({ subject: 'Quays', path: '' });
  });

  it('every action of every page has words, or is left out on purpose', () => {
    const root = join(process.cwd(), 'src/routes');
    const found = readdirSync(root, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile() && entry.name === '+page.server.ts')
      .flatMap((entry): [string, string[]][] => {
        const file = join(entry.parentPath, entry.name);
        const [, actions] =
          /export const actions = \{\n([\s\S]*?)\n\} satisfies Actions/.exec(readFileSync(file, 'utf8')) ?? [];
        if (actions === undefined) return [];
        const names = [...actions.matchAll(/^ {2}(\w+)(?=[:(])/gm)].map(([name]) => name.trim());
        return [[`/${relative(root, dirname(file))}`, names]];
      });
    const known = Object.entries(knownPageActs).filter(([route]) => route !== '/sign-out'); // which is no page
    expect(Object.fromEntries(found)).to.deep.equal(Object.fromEntries(known));
    expect(wordsOfPageAct('/(app)/receive', 'revoke')).to.equal('Revokes a key');
    expect(wordsOfPageAct('/(app)/receive', 'toString')).to.equal(null);
  });

  it('of the API is what changes something or carries data out', () => {
    const silent = operations
      .filter(({ method, isAct }) => method !== 'GET' && !isAct)
      .map(({ method, path }) => `${method} ${path}`);
    expect(silent.sort()).to.deep.equal([
      ...[
        'POST /accounts/pages/try',
        'POST /accounts/{id}/estimate',
        'POST /agreements/plan',
        'POST /alarms/plan',
        'POST /bands',
        'POST /bills/preview',
        'POST /boards/plan'
      ],
      ...[
        'POST /boards/{id}/presence',
        'POST /budgets/try',
        'POST /checks/try',
        'POST /connectors/check',
        'POST /connectors/try',
        'POST /connectors/{id}/test',
        'POST /costs/query',
        'POST /event-rules/try',
        'POST /groups/match',
        'POST /growth',
        'POST /line-rules/try',
        'POST /lines/pattern',
        'POST /me/second-factor/new'
      ],
      ...['POST /message-templates/preview', 'POST /objectives/try', 'POST /on-call/plan', 'POST /picks'],
      ...[
        'POST /preflight',
        'POST /queries',
        'POST /query',
        'POST /receive/events',
        'POST /receive/lines',
        'POST /receive/marks',
        'POST /receive/{format}'
      ],
      ...[
        'POST /rehearse',
        'POST /resources/{id}/foretell',
        'POST /routes/try',
        'POST /shared/{token}/queries',
        'PUT /boards/{id}/favourite'
      ]
    ]);
    const out = operations.filter(({ method, isAct }) => method === 'GET' && isAct).map(({ path }) => path);
    expect(out.sort()).to.deep.equal([
      '/acts',
      '/agreements/file',
      '/alarms/file',
      '/bills/focus',
      '/boards/{id}/file',
      '/incidents/{id}/review',
      '/on-call/file'
    ]);
  });
});

import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { connectMachines, withHouse } from '../../../../tests/support/bussola';
import { plainSignal, type Signal } from '../../core/signal';
import { usesOfMetric } from './signal-uses';
import { instant, instantFromText, range } from '../../core/time';
import { insertMark, marksIn } from '../marks/marks';
import { insertPerson } from '../people/people';
import { boardById, removeBoard, shareBoard, versionOfBoard, versionsOfBoard } from './boards';
import { boardOfLink, linksOfBoard, makeLink, revokeLink } from './links';
import { permitFor, titlesFor } from './permit';
import { sharedQueries } from './shared';
import { addPanel, saveBoard, makeBoard } from './save-board';

describe('boards', () => {
  const house = withHouse();
  const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
  const by = (displayName: string) => ({ id: null, displayName });
  const refused = async (work: Promise<unknown>): Promise<Refusal> => {
    const error: unknown = await work.catch((thrown: unknown) => thrown);
    if (!(error instanceof Refusal)) throw new Error(`not refused: ${String(error)}`);
    return error;
  };

  before(async function () {
    this.timeout(90_000);
    await connectMachines(house);
  });

  it('are made with panels, get more of them, and know who uses a metric', async () => {
    const { bussola } = house;
    const board = await makeBoard(bussola, { title: 'Tickets', panels: [{ title: 'Processor', signal }] }, by('Nerea'));
    expect(board).to.deep.include({ title: 'Tickets', version: 1, changedBy: 'Nerea' });
    const more = await addPanel(bussola, board.id, { title: 'Again', signal }, by('Ivo'));
    expect(more?.panels.map(({ title, place }) => [title, place.x, place.y])).to.deep.equal([
      ['Processor', 0, 0],
      ['Again', 6, 0]
    ]);
    expect([more?.version, more?.changedBy]).to.deep.equal([2, 'Ivo']);
    const uses = await usesOfMetric(bussola.db, 'machine.processor.use');
    expect(uses).to.deep.include({ kind: 'board', id: board.id, name: 'Tickets' });
    expect(await addPanel(bussola, 9999, { title: 'Nowhere', signal }, by('Ivo'))).to.equal(null);
  });

  it('two who add at once lose nothing; who changes what another changed meanwhile is told', async () => {
    const { bussola } = house;
    const { id } = await makeBoard(bussola, { title: 'Shared', panels: [] }, by('Nerea'));
    const titles = Array.from({ length: 8 }, (_, i) => `Panel ${i}`);
    await Promise.all(titles.map((title) => addPanel(bussola, id, { title, signal }, by('both'))));
    const board = (await boardById(bussola.db, id))!;
    expect(board.panels.map(({ title }) => title).sort()).to.deep.equal(titles);
    expect(new Set(board.panels.map((panel) => panel.id)).size).to.equal(8);
    const [first] = board.panels;
    const mine = { title: 'Mine', pickers: [], sections: [], panels: [first!], version: board.version };
    await saveBoard(bussola, id, { ...mine, title: 'Theirs' }, by('Ivo'));
    expect(await refused(saveBoard(bussola, id, mine, by('Nerea')))).to.include({
      code: 'changed-meanwhile',
      message: 'Ivo changed this board meanwhile.'
    });
    expect((await boardById(bussola.db, id))?.title).to.equal('Theirs');
    await removeBoard(bussola.db, id);
    expect((await refused(saveBoard(bussola, id, mine, by('Nerea')))).code).to.equal('not-found');
  });

  it('refuse a title that is taken and a signal that cannot be worked out', async () => {
    const { bussola } = house;
    await makeBoard(bussola, { title: 'Once', panels: [] }, by('Nerea'));
    const error = await refused(makeBoard(bussola, { title: 'Once', panels: [] }, by('Ivo')));
    expect(error.message).to.equal('There is already a board titled Once.');
    const nothing: Signal = plainSignal({ metric: 'no.such.metric', statistic: 'avg' });
    const unknown = await refused(
      makeBoard(bussola, { title: 'New', panels: [{ title: 'x', signal: nothing }] }, by('x'))
    );
    expect(unknown.path).to.deep.equal(['rows', 0, 'metric']);
  });

  it('that are private give away neither their title, their marks nor that there is one of that title', async () => {
    const { bussola } = house;
    const { db } = bussola;
    const people = await Promise.all(
      ['one', 'other'].map((name) =>
        insertPerson(db, {
          name,
          displayName: name,
          role: 'editor',
          passwordHash: '',
          zone: 'UTC',
          createdAt: instant(1)
        })
      )
    );
    const [one, other] = people as [(typeof people)[0], (typeof people)[0]];
    const secret = await makeBoard(bussola, { title: 'Salaries', panels: [{ title: 'x', signal }] }, one);
    await shareBoard(db, secret.id, { reach: 'private', everyone: 'edit', named: [] });
    expect((await permitFor(db, other, secret.id, 'view')).kind).to.equal('no');
    expect((await titlesFor(db, other)).map(({ title }) => title)).to.not.include('Salaries');
    expect((await titlesFor(db, one)).map(({ title }) => title)).to.include('Salaries');
    const second = await makeBoard(bussola, { title: 'Salaries', panels: [] }, other);
    expect(second.title).to.equal('Salaries');
    const uses = await usesOfMetric(db, 'machine.processor.use');
    expect(uses.map(({ name }) => name))
      .to.include('a private board')
      .and.not.include('Salaries');
    const mark = { text: 'raise', from: '2026-05-04T10:00:00Z', board: secret.id };
    await insertMark(db, mark, { name: 'one', source: 'person' }, instant(1));
    const span = range(instantFromText('2026-05-04T00:00:00Z'), instantFromText('2026-05-05T00:00:00Z'));
    expect(await marksIn(db, span)).to.deep.equal([]);
    expect((await marksIn(db, span, { board: secret.id, services: [] })).map(({ text }) => text)).to.deep.equal([
      'raise'
    ]);
    await shareBoard(db, secret.id, { reach: 'private', everyone: 'view', named: [{ person: other.id, may: 'view' }] });
    const permit = await permitFor(db, other, secret.id, 'edit');
    expect(permit.kind === 'no' && permit.refusal.code).to.equal('not-allowed');
  });

  it('keep every version, and are seen by a link until it runs out or is revoked', async () => {
    const { bussola } = house;
    const { db } = bussola;
    const board = await makeBoard(bussola, { title: 'Versions', panels: [] }, by('Nerea'));
    await addPanel(bussola, board.id, { title: 'Later', signal }, by('Ivo'));
    const versions = await versionsOfBoard(db, board.id);
    expect(versions.map(({ version, madeBy, board: of }) => [version, madeBy, of.panels.length])).to.deep.equal([
      [2, 'Ivo', 1],
      [1, 'Nerea', 0]
    ]);
    expect((await versionOfBoard(db, board.id, 1))?.board.panels).to.deep.equal([]);
    const { token, id } = await makeLink(db, board.id, { account: ['a'] }, instant(1000), 'Nerea', instant(1));
    expect((await boardOfLink(db, token, instant(999)))?.choices).to.deep.equal({ account: ['a'] });
    expect(await boardOfLink(db, token, instant(1000))).to.equal(null);
    expect(await boardOfLink(db, `${token}x`, instant(1))).to.equal(null);
    await revokeLink(db, board.id, id, instant(2));
    expect(await boardOfLink(db, token, instant(3))).to.equal(null);
    expect(await linksOfBoard(db, board.id, instant(3))).to.deep.equal([]);
  });

  it('by a link are asked for their own signals, as they were picked, and for nothing else', async () => {
    const { bussola } = house;
    const board = await makeBoard(bussola, { title: 'Linked', panels: [{ title: 'x', signal }] }, by('Nerea'));
    const picked = {
      board: { ...board, pickers: [{ name: 'account', title: 'Account', label: 'account', several: true, usual: [] }] },
      choices: { account: ['corallo-prod'] }
    };
    const span = { from: '2026-05-04T10:00:00Z', to: '2026-05-04T11:00:00Z', zone: 'UTC', values: 'numbers' as const };
    const { signals } = await sharedQueries(bussola.db, picked, {
      asks: [{ panel: 'p1', column: 0, statistic: 'max' }],
      ...span
    });
    expect(signals[0]?.rows[0]).to.deep.include({
      statistic: 'max',
      where: [{ label: 'account', is: ['corallo-prod'] }]
    });
    const other = await refused(sharedQueries(bussola.db, picked, { asks: [{ panel: 'p1', column: 1 }], ...span }));
    expect(other.message).to.equal('The board has no such panel.');
  });
});

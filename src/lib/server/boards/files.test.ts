import { isRefused, Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { connectMachines, withHouse } from '../../../../tests/support/bussola';
import { boardOf, type Board } from '../../core/board';
import { boardFile } from '../../core/board/file';
import { plainSignal } from '../../core/signal';
import { instant } from '../../core/time';
import { labelNames, valuesOfLabel } from '../inventory/labels';
import { insertPerson } from '../people/people';
import { boardById, shareBoard, versionsOfBoard } from './boards';
import { applyFile, fileSchema, planFile, type FilePlan } from './files';
import { makeBoard } from './save-board';

describe('a board’s file, applied here', () => {
  const house = withHouse();
  const where = (account: string) => [{ label: 'account', is: [account] }];
  const board = (title: string, account: string, metric = 'machine.processor.use'): Board => ({
    title,
    pickers: [],
    sections: [],
    panels: [
      {
        id: 'p1',
        title: 'Processor',
        picture: 'lines',
        signal: plainSignal({ metric, statistic: 'avg', where: where(account) }),
        place: { x: 0, y: 0, w: 6, h: 4 }
      }
    ]
  });
  const text = (of: Board) => boardFile(of, 'yaml');
  const asked = (more: object) => fileSchema.parse({ text: '', ...more });
  let nerea: { id: number; displayName: string; role: 'editor' };

  before(async function () {
    this.timeout(90_000);
    await connectMachines(house);
    const { id } = await insertPerson(house.bussola.db, {
      name: 'nerea',
      displayName: 'Nerea',
      role: 'editor',
      passwordHash: '',
      zone: 'UTC',
      createdAt: instant(1)
    });
    nerea = { id, displayName: 'Nerea', role: 'editor' };
  });
  const plan = async (more: object): Promise<FilePlan> => {
    return planFile(house.bussola, nerea, asked(more));
  };
  const refused = async (work: Promise<unknown>): Promise<string> => {
    const error: unknown = await work.catch((thrown: unknown) => thrown);
    if (!(error instanceof Refusal)) throw new Error(`not refused: ${String(error)}`);
    return error.message;
  };

  it('says what would be made and what of it is not here, with what could take its place', async () => {
    const { into, differences, unknown } = await plan({ text: text(board('New', 'elsewhere', 'no.such.metric')) });
    expect(into).to.equal(null);
    expect(differences).to.deep.equal(['The panel “Processor” was added.']);
    expect(unknown.map(({ of, label, name }) => [of, label, name])).to.deep.equal([
      ['metric', '', 'no.such.metric'],
      ['value', 'account', 'elsewhere']
    ]);
    expect(unknown[0]?.candidates).to.include('machine.processor.use');
    expect(unknown[1]?.candidates).to.have.length.above(0);
    const account = unknown[1]?.candidates[0] as string;
    const mapping = {
      values: { account: { elsewhere: account } },
      metrics: { 'no.such.metric': 'machine.memory.use' }
    };
    const mapped = await plan({ text: text(board('New', 'elsewhere', 'no.such.metric')), mapping });
    expect(mapped.unknown).to.deep.equal([]);
    expect(JSON.stringify(mapped.board)).to.contain(account).and.contain('machine.memory.use');
  });

  it('makes a board, then changes the one of its title, with a version more each time', async () => {
    const { bussola } = house;
    const first = await applyFile(bussola, nerea, asked({ text: text(board('Carried', 'a')), match: true }), nerea);
    if (!('kept' in first) || !first.kept) throw new Error('not kept');
    expect(first.kept).to.deep.include({ title: 'Carried', version: 1, changedBy: 'Nerea' });
    expect(first.kept.sharing.owner).to.equal(nerea.id);
    const changed = { ...board('Carried', 'b'), about: 'What it is for' };
    const planned = await plan({ text: text(changed), match: true });
    expect(planned.into).to.deep.equal({ id: first.kept.id, title: 'Carried', version: 1 });
    expect(planned.differences).to.deep.equal([
      'The description was nothing, is “What it is for”.',
      'Of the panel “Processor” the signal was changed.'
    ]);
    expect((await boardById(bussola.db, first.kept.id))?.version, 'a plan changes nothing').to.equal(1);
    await applyFile(bussola, nerea, asked({ text: text(changed), into: first.kept.id }), nerea);
    const after = await boardById(bussola.db, first.kept.id);
    expect(after && boardOf(after)).to.deep.equal(changed);
    expect((await versionsOfBoard(bussola.db, first.kept.id)).map(({ version }) => version)).to.deep.equal([2, 1]);
    expect((await plan({ text: text(changed), match: true })).differences).to.deep.equal([]);
  });

  it('does not change a board that the person may only see, nor tell of one that they may not', async () => {
    const { bussola } = house;
    const theirs = await makeBoard(bussola, board('Theirs', 'a'), { id: null, displayName: 'Ivo' });
    await shareBoard(bussola.db, theirs.id, { reach: 'workspace', everyone: 'view', named: [] });
    const change = text({ ...board('Theirs', 'b') });
    expect(await refused(applyFile(bussola, nerea, asked({ text: change, match: true }), nerea))).to.equal(
      'You may not change the board Theirs.'
    );
    await shareBoard(bussola.db, theirs.id, { reach: 'private', everyone: 'edit', named: [] });
    expect(await refused(applyFile(bussola, nerea, asked({ text: change, into: theirs.id }), nerea))).to.equal(
      'There is no such board.'
    );
    expect((await plan({ text: change, match: true })).into).to.equal(null);
    expect((await boardById(bussola.db, theirs.id))?.version).to.equal(1);
  });

  it('that cannot be read changes nothing and says why', async () => {
    const unreadable = asked({ text: 'kind: board\nversion: 5\n' });
    const refused = await applyFile(house.bussola, nerea, unreadable, nerea).catch((error: unknown) => error);
    if (!isRefused(refused, 'unreadable')) throw new Error('not refused');
    expect(refused.problems?.[0]?.message).to.match(/written by a newer Bussola/);
    expect(fileSchema.safeParse({ text: 'x', mapping: { values: 3 } }).success).to.equal(false);
  });

  it('labels have the values that are here: of all resources, of tags, and of the series of some metrics', async () => {
    const { db } = house.bussola;
    const metric = 'machine.processor.use';
    await db.rows(
      `update resources set tags = '{"team": "gates"}' where id = (select min(id) from resources where type = 'machine')`
    );
    await db.rows(
      `insert into series (account_id, resource_id, metric, labels)
       select account_id, id, $1, '{"core": "1", "own": "x"}' from resources where type = 'machine' order by id limit 1`,
      [metric]
    );
    expect(await valuesOfLabel(db, 'service', [])).to.include('machines');
    expect((await valuesOfLabel(db, 'account', [])).length).to.be.above(0);
    expect(await valuesOfLabel(db, 'tag.team', [])).to.include('gates');
    expect(await valuesOfLabel(db, 'core', [metric])).to.deep.equal(['1']);
    expect(await valuesOfLabel(db, 'core', ['another.metric'])).to.deep.equal([]);
    expect(await valuesOfLabel(db, "core' or true --", [metric]), 'a label is a value, never SQL').to.deep.equal([]);
    expect(await valuesOfLabel(db, 'constructor', [metric])).to.deep.equal([]);
    expect((await labelNames(db, [metric])).get(metric)).to.deep.equal(['core', 'own']);
  });
});

import { expect } from 'chai';
import { connectMachines, withHouse } from '../../../../tests/support/bussola';
import { plainSignal, type Signal } from '../../core/signal';
import { Refusal } from '../refusal';
import { SignalRefusal } from '../signals/resolve';
import { usesOfMetric } from '../signals/uses';
import { boardById, removeBoard } from './boards';
import { addPanel, keepBoard, makeBoard } from './keep';

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
    this.timeout(30_000);
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
    await keepBoard(bussola, id, { ...mine, title: 'Theirs' }, by('Ivo'));
    const meanwhile = await keepBoard(bussola, id, mine, by('Nerea'));
    if (meanwhile.kind !== 'changed meanwhile') throw new Error(meanwhile.kind);
    expect([meanwhile.board.title, meanwhile.board.changedBy]).to.deep.equal(['Theirs', 'Ivo']);
    expect((await boardById(bussola.db, id))?.title).to.equal('Theirs');
    await removeBoard(bussola.db, id);
    expect(await keepBoard(bussola, id, mine, by('Nerea'))).to.deep.equal({ kind: 'gone' });
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
    expect((unknown as SignalRefusal).path).to.deep.equal(['rows', 0, 'metric']);
  });
});

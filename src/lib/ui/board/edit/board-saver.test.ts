import { expect } from 'chai';
import fc from 'fast-check';
import {
  boardSchema,
  changePanel,
  pictured,
  removePanel,
  withPanel,
  type Board,
  type SavedBoard,
  type Panel
} from '$lib/core/board';
import { plainSignal } from '$lib/core/signal';
import { BoardSaver, type Outside, type SaveResult, type Standing } from './board-saver';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
/** Adds a panel under an id of its own, as the browser does. */
const add = (board: Board, title: string): Board => ({
  ...board,
  panels: withPanel(board.panels, pictured(title, signal, 'lines'), title.toLowerCase().replaceAll(' ', '-')) ?? []
});
const began: Board = {
  title: 'Tickets',
  pickers: [],
  sections: [],
  panels: add(add({ title: '', pickers: [], sections: [], panels: [] }, 'A'), 'B').panels
};
const rename = (board: Board, index: number, title: string) =>
  changePanel(board, board.panels[index]?.id ?? '', (panel) => ({ ...panel, title }));

/** A server that keeps one board, as the real one does: a change names the version it was made from. */
class Server {
  kept: SavedBoard = { ...began, id: 7, version: 1, changedAt: 0, changedBy: 'nobody', sharing: {} };
  isReached = true;
  sent = 0;

  put(by: string, board: Board, version: number): SaveResult {
    if (!this.isReached) return { kind: 'offline' };
    this.sent++;
    const read = boardSchema.safeParse(board);
    if (!read.success) return { kind: 'refused', problem: read.error.issues[0]?.message ?? '' };
    if (version !== this.kept.version) return { kind: 'changed meanwhile', board: this.kept };
    this.kept = { ...this.kept, ...read.data, version: version + 1, changedAt: version, changedBy: by };
    return { kind: 'saved', board: this.kept };
  }
}

/** Somebody's browser: timers and answers wait until the test lets them go. */
class Person {
  readonly keeping: BoardSaver;
  readonly timers = new Set<() => void>();
  readonly told: Standing[] = [];

  constructor(
    readonly name: string,
    readonly server: Server,
    more: Partial<Outside> = {}
  ) {
    this.keeping = new BoardSaver(server.kept, {
      send: (_, board, version) => Promise.resolve(server.put(name, board, version)),
      later: (_, work) => {
        this.timers.add(work);
        return () => this.timers.delete(work);
      },
      changed: (standing) => this.told.push(standing),
      ...more
    });
  }
  get board(): Board {
    return this.keeping.standing.board;
  }
  change(to: (board: Board) => Board): void {
    this.keeping.change(to(this.board));
  }
  hear(): void {
    this.keeping.take(this.server.kept);
  }
}
const titles = ({ panels }: Pick<Board, 'panels'>) => panels.map(({ title }) => title);

describe('keeping a board by itself', () => {
  it('sends changes of a moment together, and says how they stand', async () => {
    const server = new Server();
    const nerea = new Person('Nerea', server);
    nerea.change((board) => rename(board, 0, 'One'));
    nerea.change((board) => rename(board, 0, 'Two'));
    expect([nerea.keeping.standing.saving, nerea.timers.size, server.sent]).to.deep.equal(['unsaved', 1, 0]);
    await nerea.keeping.flush();
    expect([nerea.keeping.standing.saving, nerea.timers.size, server.sent]).to.deep.equal(['saved', 0, 1]);
    expect(nerea.keeping.standing).to.include({ changedBy: 'Nerea', changedAt: 1, mayUndo: true, mayRedo: false });
    expect(titles(server.kept)).to.deep.equal(['Two', 'B']);
    await nerea.keeping.flush();
    expect(server.sent, 'nothing new is not sent').to.equal(1);
  });

  it('undoes only what the person did, and does it again', async () => {
    const server = new Server();
    const [nerea, ivo] = [new Person('Nerea', server), new Person('Ivo', server)];
    nerea.change((board) => rename(board, 0, 'Mine'));
    await nerea.keeping.flush();
    ivo.hear();
    ivo.change((board) => rename(board, 1, 'Theirs'));
    await ivo.keeping.flush();
    nerea.hear();
    nerea.keeping.undo();
    expect(titles(nerea.board)).to.deep.equal(['A', 'Theirs']);
    nerea.keeping.redo();
    expect(titles(nerea.board)).to.deep.equal(['Mine', 'Theirs']);
    nerea.keeping.redo();
    expect(titles(nerea.board), 'nothing more to do again').to.deep.equal(['Mine', 'Theirs']);
    nerea.change((board) => rename(board, 0, 'Anew'));
    expect(nerea.keeping.standing).to.include({ mayUndo: true, mayRedo: false });
  });

  it('says when what is undone was changed by another since', async () => {
    const server = new Server();
    const [nerea, ivo] = [new Person('Nerea', server), new Person('Ivo', server)];
    nerea.change((board) => rename(board, 0, 'Mine'));
    await nerea.keeping.flush();
    ivo.hear();
    ivo.change((board) => rename(board, 0, 'Theirs'));
    await ivo.keeping.flush();
    nerea.hear();
    nerea.keeping.undo();
    expect(titles(nerea.board)).to.deep.equal(['Theirs', 'B']);
    expect(nerea.keeping.standing.said).to.equal('Some of it was changed since and stays as it is.');
  });

  it('keeps what was changed without a connection as soon as there is one', async () => {
    const server = new Server();
    const nerea = new Person('Nerea', server);
    server.isReached = false;
    nerea.change((board) => rename(board, 0, 'Saved later'));
    await nerea.keeping.flush();
    expect(nerea.keeping.standing).to.include({ saving: 'waiting' });
    expect(nerea.keeping.standing.problem).to.match(/^Bussola cannot be reached/);
    expect(nerea.timers.size, 'it is tried again').to.equal(1);
    server.isReached = true;
    await nerea.keeping.flush();
    expect([nerea.keeping.standing.saving, nerea.keeping.standing.problem]).to.deep.equal(['saved', '']);
    expect(titles(server.kept)).to.deep.equal(['Saved later', 'B']);
  });

  it('says why it was refused, keeps it on the screen, and forgets the reason when it is mended or undone', async () => {
    const server = new Server();
    const nerea = new Person('Nerea', server);
    nerea.change((board) => ({ ...board, title: ' ' }));
    await nerea.keeping.flush();
    expect(nerea.keeping.standing).to.include({ saving: 'refused', problem: 'Not saved: Give the board a title.' });
    expect([nerea.board.title, nerea.keeping.hasUnsavedChanges]).to.deep.equal([' ', true]);
    nerea.keeping.undo();
    await nerea.keeping.flush();
    expect(nerea.keeping.standing).to.include({ saving: 'saved', problem: '' });
    expect(server.kept.title).to.equal('Tickets');
  });

  it('tells what both changed, and puts mine in its place on request', async () => {
    const server = new Server();
    const [nerea, ivo] = [new Person('Nerea', server), new Person('Ivo', server)];
    ivo.change((board) => rename(board, 0, 'Theirs'));
    await ivo.keeping.flush();
    nerea.change((board) => ({ ...rename(board, 0, 'Mine'), about: 'x' }));
    await nerea.keeping.flush();
    expect(titles(server.kept)).to.deep.equal(['Theirs', 'B']);
    expect(server.kept.about).to.equal('x');
    const [conflict] = nerea.keeping.standing.conflicts;
    expect(conflict).to.include({ field: 'title', mine: 'Mine', theirs: 'Theirs' });
    nerea.keeping.settle(conflict!, 'mine');
    await nerea.keeping.flush();
    expect(titles(server.kept)).to.deep.equal(['Mine', 'B']);
    expect(nerea.keeping.standing.conflicts).to.deep.equal([]);
  });

  it('what is changed while an answer is under way is kept with the next, none overwritten', async () => {
    const server = new Server();
    let release: (() => void) | null = null;
    const nerea: Person = new Person('Nerea', server, {
      send: (_, board, version) =>
        new Promise((answer) => {
          release = () => answer(server.put('Nerea', board, version));
        })
    });
    nerea.change((board) => rename(board, 0, 'First'));
    const flushed = nerea.keeping.flush();
    nerea.change((board) => rename(board, 1, 'Second'));
    release!();
    await Promise.resolve();
    while (nerea.keeping.standing.saving !== 'saved') {
      release!();
      await new Promise(setImmediate);
    }
    await flushed;
    expect(titles(server.kept)).to.deep.equal(['First', 'Second']);
  });

  it('two people, whatever they do in whatever order, end with one sound board; nothing that one added is lost', async () => {
    const act = fc.record({
      who: fc.constantFrom(0, 1),
      what: fc.oneof(
        fc.nat(5).map((index) => ({ kind: 'rename' as const, index })),
        fc.nat(5).map((index) => ({ kind: 'move' as const, index })),
        fc.constant({ kind: 'add' as const, index: 0 }),
        fc.nat(5).map((index) => ({ kind: 'remove' as const, index })),
        fc.constantFrom('flush', 'hear', 'undo', 'redo', 'lose').map((kind) => ({ kind, index: 0 }))
      )
    });
    await fc.assert(
      fc.asyncProperty(fc.array(act, { maxLength: 25 }), async (acts) => {
        const server = new Server();
        const people = [new Person('Nerea', server), new Person('Ivo', server)];
        const added = new Set<string>();
        const taken = new Set<string>();
        for (const [at, { who, what }] of acts.entries()) {
          const person = people[who] as Person;
          const panel: Panel | undefined = person.board.panels[what.index % Math.max(1, person.board.panels.length)];
          if (what.kind === 'add') {
            added.add(`added ${at}`);
            person.change((board) => add(board, `added ${at}`));
          } else if (what.kind === 'rename' && panel && !added.has(panel.title))
            person.change((board) => changePanel(board, panel.id, (one) => ({ ...one, title: `renamed ${at}` })));
          else if (what.kind === 'move' && panel)
            person.change((board) =>
              changePanel(board, panel.id, (one) => ({ ...one, place: { ...one.place, y: at } }))
            );
          else if (what.kind === 'remove' && panel) {
            taken.add(panel.title);
            person.change((board) => removePanel(board, panel.id));
          } else if (what.kind === 'undo' || what.kind === 'redo') {
            for (const title of added) taken.add(title); // an addition may be undone
            person.keeping[what.kind]();
          } else if (what.kind === 'hear') person.hear();
          else if (what.kind === 'flush') await person.keeping.flush();
          else if (what.kind === 'lose') server.isReached = !server.isReached;
        }
        server.isReached = true;
        for (let round = 0; round < 4; round++)
          for (const person of people) {
            person.hear();
            await person.keeping.flush();
          }
        for (const person of people) {
          expect(person.keeping.standing.saving).to.equal('saved');
          expect(person.board).to.deep.equal(boardSchema.parse(withoutKeeping(server.kept)));
        }
        for (const title of added) if (!taken.has(title)) expect(titles(server.kept)).to.include(title);
      })
    );
  });
});

const withoutKeeping = ({
  id: _,
  version: _v,
  changedAt: _a,
  changedBy: _b,
  sharing: _s,
  ...board
}: SavedBoard): Board => board;

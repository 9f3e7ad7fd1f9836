import { expect } from 'chai';
import fc from 'fast-check';
import { manyRuns } from '../../../../tests/support/runs';
import { plainSignal } from '../signal';
import {
  boardSchema,
  changePanel,
  differencesOf,
  mergeBoards,
  pictured,
  removePanel,
  spokenDifference,
  summaryOf,
  withPanel,
  type Board,
  type Panel
} from './index';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
const titles = ['Processor', 'Memory', 'Network'];
const base: Board = boardSchema.parse({
  title: 'Tickets',
  panels: titles.reduce<Panel[]>((all, title) => withPanel(all, pictured(title, signal, 'lines')) ?? all, []),
  pickers: [{ name: 'account', title: 'Account', label: 'account' }]
});
const renamed = (board: Board, id: string, title: string) => changePanel(board, id, (panel) => ({ ...panel, title }));

/** A random change of a board, as a person makes one. */
const change = fc.oneof(
  fc.constantFrom('p1', 'p2', 'p3').chain((id) =>
    fc.oneof(
      fc.string({ minLength: 1, maxLength: 5 }).map((title) => (board: Board) => renamed(board, id, `${title}.`)),
      fc.constant((board: Board) => removePanel(board, id)),
      fc
        .integer({ min: 0, max: 8 })
        .map((y) => (board: Board) => changePanel(board, id, (panel) => ({ ...panel, place: { ...panel.place, y } })))
    )
  ),
  fc.constantFrom('A', 'B').map((title) => (board: Board) => ({ ...board, title })),
  fc.constantFrom('x', 'y').map((about) => (board: Board) => ({ ...board, about })),
  fc.constant((board: Board) => ({ ...board, pickers: [] })),
  fc.constant((board: Board) => ({
    ...board,
    panels: withPanel(board.panels, pictured('New', signal, 'number')) ?? []
  }))
);
const changed = fc.array(change, { maxLength: 4 }).map((all) => all.reduce((board, one) => one(board), base));
const content = ({ panels, ...rest }: Board) => ({
  ...rest,
  panels: panels.map(({ place: _, ...panel }) => panel)
});

describe('two changes of one board', () => {
  it('where only one changed anything, or both the same, are that change, and no conflict', () => {
    fc.assert(
      fc.property(changed, (mine) => {
        for (const { board, conflicts } of [
          mergeBoards(base, mine, base),
          mergeBoards(base, base, mine),
          mergeBoards(base, mine, mine)
        ]) {
          expect(content(board)).to.deep.equal(content(mine));
          expect(conflicts).to.deep.equal([]);
        }
      }),
      { numRuns: manyRuns() }
    );
  });

  it('keep what was put between others where it was put', () => {
    // Seed 443768415, path "10:8": p3 was taken away and a panel of its name made anew, behind another new one.
    const fresh = (id: string, y: number): Panel => ({
      ...pictured('New', signal, 'number'),
      id,
      place: { x: 0, y, w: 3, h: 2 }
    });
    const mine: Board = { ...base, panels: [base.panels[1] as Panel, fresh('p4', 8), fresh('p3', 12)] };
    for (const merged of [mergeBoards(base, mine, base), mergeBoards(base, base, mine), mergeBoards(base, mine, mine)])
      expect(merged.board.panels.map(({ id }) => id)).to.deep.equal(['p2', 'p4', 'p3']);
  });

  it('give a sound board that keeps what one changed and the other did not touch, and tells every loss', () => {
    fc.assert(
      fc.property(changed, changed, (mine, theirs) => {
        const { board, conflicts } = mergeBoards(base, mine, theirs);
        expect(boardSchema.safeParse(board).success).to.equal(true);
        for (const panel of base.panels) {
          const of = (one: Board) => one.panels.find(({ id }) => id === panel.id);
          const [m, t, merged] = [of(mine), of(theirs), of(board)];
          if (m && t && m.title !== panel.title && t.title === panel.title) expect(merged?.title).to.equal(m.title);
          if (m && t && t.title !== panel.title) expect(merged?.title).to.equal(t.title);
          if (m && t && m.title !== t.title && m.title !== panel.title && t.title !== panel.title)
            expect(
              conflicts.some(({ id, field }) => id === panel.id && (field === 'title' || field === 'picture'))
            ).to.equal(true);
          if (!m && t && t.title !== panel.title) expect(merged).to.not.equal(undefined); // changed there, taken away here: it stays
        }
        const news = (one: Board) => one.panels.filter(({ id }) => !base.panels.some((known) => known.id === id));
        const alike = JSON.stringify(news(mine)) === JSON.stringify(news(theirs));
        if (!alike) expect(news(board).length).to.be.at.least(Math.max(news(mine).length, news(theirs).length));
      }),
      { numRuns: manyRuns() }
    );
  });

  it('of the same field let theirs stand and tell mine', () => {
    const { board, conflicts } = mergeBoards(base, renamed(base, 'p1', 'Mine'), renamed(base, 'p1', 'Theirs'));
    expect(board.panels[0]?.title).to.equal('Theirs');
    expect(conflicts).to.deep.equal([
      { of: 'panel', id: 'p1', title: 'Theirs', field: 'title', mine: 'Mine', theirs: 'Theirs' }
    ]);
  });

  it('that each add something keep both, whatever ids they gave it, and none covers another', () => {
    const mine: Board = {
      ...base,
      sections: [{ id: 'part-1', title: 'Mine', folded: false }],
      pickers: [...base.pickers, { name: 'region', title: 'Mine', label: 'region', several: true, usual: [] }],
      panels:
        withPanel(base.panels, { ...pictured('Mine', signal, 'lines'), section: 'part-1', ignores: ['region'] }) ?? []
    };
    const theirs: Board = {
      ...base,
      sections: [{ id: 'part-1', title: 'Theirs', folded: false }],
      pickers: [...base.pickers, { name: 'region', title: 'Theirs', label: 'region', several: true, usual: [] }],
      panels: withPanel(base.panels, pictured('Theirs', signal, 'lines')) ?? []
    };
    const { board, conflicts } = mergeBoards(base, mine, theirs);
    expect(conflicts).to.deep.equal([]);
    expect(boardSchema.safeParse(board).success).to.equal(true);
    expect(board.sections.map(({ id, title }) => [id, title])).to.deep.equal([
      ['part-1', 'Theirs'],
      ['part-1-2', 'Mine']
    ]);
    expect(board.pickers.map(({ name, title }) => [name, title])).to.deep.equal([
      ['account', 'Account'],
      ['region', 'Theirs'],
      ['region-2', 'Mine']
    ]);
    const [own] = board.panels.filter(({ title }) => title === 'Mine');
    expect(own).to.deep.include({ id: 'p4-2', section: 'part-1-2', ignores: ['region-2'] });
    expect(board.panels.find(({ id }) => id === 'p4')?.title).to.equal('Theirs');
  });

  it('that put panels in the same place leave none covered', () => {
    const add = (id: string): Board => ({
      ...base,
      panels: [...base.panels, { ...pictured(id, signal, 'lines'), id, place: { x: 6, y: 4, w: 6, h: 4 } }]
    });
    const { board } = mergeBoards(base, add('mine'), add('theirs'));
    expect(board.panels.map(({ id, place }) => [id, place.y])).to.deep.equal([
      ['p1', 0],
      ['p2', 0],
      ['p3', 4],
      ['theirs', 4],
      ['mine', 8]
    ]);
  });

  it('where one takes a section away and the other puts a panel into it, leave the panel at the top', () => {
    const sectioned: Board = { ...base, sections: [{ id: 's1', title: 'Host', folded: false }] };
    const mine = changePanel(sectioned, 'p1', (panel) => ({ ...panel, section: 's1' }));
    const { board } = mergeBoards(sectioned, mine, { ...sectioned, sections: [] });
    expect(board.panels[0]).to.not.have.property('section');
    expect(boardSchema.safeParse(board).success).to.equal(true);
  });
});

describe('what differs between two versions', () => {
  it('is said part by part', () => {
    const moved = changePanel(base, 'p2', (panel) => ({ ...panel, place: { ...panel.place, y: 9 } }));
    const after = removePanel(renamed({ ...moved, title: 'Gates', about: 'x' }, 'p1', 'Use'), 'p3');
    expect(differencesOf(base, after).map(spokenDifference)).to.deep.equal([
      'The title was “Tickets”, is “Gates”.',
      'The description was nothing, is “x”.',
      'The panel “Processor” is called “Use” now.',
      'The panel “Memory” was moved or sized.',
      'The panel “Network” was removed.'
    ]);
    expect(summaryOf(differencesOf(base, after))).to.equal(
      'title changed, description changed, Use changed and 2 more'
    );
    expect(summaryOf(differencesOf(base, base))).to.equal('Nothing changed');
  });

  it('is nothing exactly when they are the same', () => {
    fc.assert(
      fc.property(changed, (after) => {
        const same = JSON.stringify(after) === JSON.stringify(base);
        if (same) expect(differencesOf(base, after)).to.deep.equal([]);
        expect(differencesOf(after, after)).to.deep.equal([]);
      })
    );
  });
});

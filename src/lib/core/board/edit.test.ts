import { expect } from 'chai';
import fc from 'fast-check';
import { plainSignal } from '../signal';
import {
  addPanel,
  addSection,
  boardColumns,
  boardSchema,
  bySection,
  duplicatePanel,
  inPicture,
  moveSection,
  pictured,
  placePanels,
  removeSection,
  settled,
  signalPictures,
  signalsOf,
  suggestedPicture,
  whySuggested,
  type Board,
  type Panel,
  type GridArea
} from './index';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });
const lines = (id: string, place: GridArea, section?: string): Panel => ({
  ...pictured(id, signal, 'lines'),
  id,
  place,
  ...(section === undefined ? {} : { section })
});
const board = (panels: Panel[], more: Partial<Board> = {}): Board => ({
  title: 'Tickets',
  pickers: [],
  sections: [],
  panels,
  ...more
});
const place = fc
  .record({
    x: fc.integer({ min: 0, max: 11 }),
    y: fc.integer({ min: 0, max: 12 }),
    w: fc.integer({ min: 1, max: 12 }),
    h: fc.integer({ min: 1, max: 6 })
  })
  .map(({ x, y, w, h }): GridArea => ({ x, y, w: Math.min(w, boardColumns - x), h }));
const covered = (panels: readonly Panel[]) =>
  panels.some((a) =>
    panels.some(
      (b) =>
        a !== b &&
        a.section === b.section &&
        a.place.x < b.place.x + b.place.w &&
        b.place.x < a.place.x + a.place.w &&
        a.place.y < b.place.y + b.place.h &&
        b.place.y < a.place.y + a.place.h
    )
  );

describe('panels of a board', () => {
  it('settle so that none covers another; they only move down, and the first one not at all', () => {
    fc.assert(
      fc.property(fc.array(place, { maxLength: 12 }), fc.nat(11), (places, chosen) => {
        const panels = places.map((one, i) => lines(`p${i}`, one, i % 3 === 0 ? 's1' : undefined));
        const first = panels[chosen % Math.max(1, panels.length)];
        const after = settled(panels, first?.id ?? null);
        expect(covered(after)).to.equal(false);
        for (const [i, { place: to }] of after.entries()) {
          const from = (panels[i] as Panel).place;
          expect([to.x, to.w, to.h]).to.deep.equal([from.x, from.w, from.h]);
          expect(to.y).to.be.at.least(from.y);
        }
        expect(after.find(({ id }) => id === first?.id)?.place).to.deep.equal(first?.place);
        if (!covered(panels)) expect(after.map(({ place: to }) => to)).to.deep.equal(places);
      })
    );
  });

  it('moved by a person stay where they were put, and push what they cover', () => {
    const two = board([lines('a', { x: 0, y: 0, w: 6, h: 4 }), lines('b', { x: 6, y: 0, w: 6, h: 4 })]);
    const moved = placePanels(two, new Map([['b', { place: { x: 0, y: 1, w: 6, h: 4 }, section: undefined }]]));
    expect(moved.panels.map(({ place: { x, y } }) => [x, y])).to.deep.equal([
      [0, 5],
      [0, 1]
    ]);
  });

  it('are copied beside themselves where there is room, else to the next free place', () => {
    const one = board([lines('p1', { x: 0, y: 2, w: 6, h: 4 })]);
    const copied = duplicatePanel(one, 'p1', 'p2');
    expect(copied?.panels[1]).to.deep.include({ id: 'p2', title: 'p1, copy', place: { x: 6, y: 2, w: 6, h: 4 } });
    const again = copied && duplicatePanel(copied, 'p1', 'p3');
    expect(again && covered(again.panels)).to.equal(false);
    expect(duplicatePanel(one, 'gone', 'p2')).to.equal(null);
    expect(boardSchema.safeParse(again).success).to.equal(true);
  });

  it('are shown in any picture and back with the same signal', () => {
    const panel = lines('p1', { x: 0, y: 0, w: 6, h: 4 });
    for (const picture of signalPictures) {
      const other = inPicture(panel, picture, [0, 50]);
      expect(other?.picture).to.equal(picture);
      expect(boardSchema.safeParse(board([other as Panel])).success, picture).to.equal(true);
      expect(signalsOf(other as Panel)).to.deep.equal([signal]);
      expect(inPicture(other as Panel, 'lines')).to.deep.include({ picture: 'lines', signal, title: 'p1' });
    }
    const text = { id: 't', title: 'x', place: panel.place, picture: 'text', text: 'x' } as const;
    expect(inPicture(text, 'lines')).to.equal(null);
  });
});

describe('sections of a board', () => {
  const sectioned = board(
    [
      lines('a', { x: 0, y: 0, w: 6, h: 4 }),
      lines('b', { x: 0, y: 0, w: 6, h: 4 }, 's1'),
      lines('c', { x: 0, y: 0, w: 6, h: 4 }, 's2')
    ],
    {
      sections: [
        { id: 's1', title: 'Host', folded: false },
        { id: 's2', title: 'Guest', folded: true }
      ]
    }
  );

  it('hold their own panels, and change places', () => {
    expect(
      bySection(sectioned).map(({ section, panels }) => [section?.id ?? null, panels.map(({ id }) => id)])
    ).to.deep.equal([
      [null, ['a']],
      ['s1', ['b']],
      ['s2', ['c']]
    ]);
    expect(moveSection(sectioned, 's2', -1).sections.map(({ id }) => id)).to.deep.equal(['s2', 's1']);
    expect(moveSection(sectioned, 's1', -1).sections.map(({ id }) => id)).to.deep.equal(['s1', 's2']);
    expect(addSection(sectioned, 'Net', 'part-3')?.sections.at(-1)).to.deep.equal({
      id: 'part-3',
      title: 'Net',
      folded: false
    });
  });

  it('whose heading is taken away leave their panels below those of the section before', () => {
    const after = removeSection(sectioned, 's2');
    expect(after.panels.find(({ id }) => id === 'c')).to.deep.include({
      section: 's1',
      place: { x: 0, y: 4, w: 6, h: 4 }
    });
    const top = removeSection(after, 's1');
    expect(top.panels.every((panel) => panel.section === undefined)).to.equal(true);
    expect(covered(top.panels)).to.equal(false);
    expect(boardSchema.safeParse(top).success).to.equal(true);
  });

  it('that are named by a panel but are not there are refused', () => {
    const error = boardSchema.safeParse({ ...sectioned, sections: [] }).error;
    expect(error?.issues[0]?.message).to.equal('There is no section s1.');
  });
});

describe('a picture is proposed', () => {
  const facts = { series: 5, bounded: false, resources: 5, kind: 'gauge', parts: false };
  it('that suits the data', () => {
    expect(suggestedPicture({ ...facts, series: 1, bounded: true })).to.equal('gauge');
    expect(suggestedPicture({ ...facts, series: 1 })).to.equal('number');
    expect(suggestedPicture(facts)).to.equal('lines');
    expect(suggestedPicture({ ...facts, series: 23, resources: 23 })).to.equal('snapshot');
    expect(suggestedPicture({ ...facts, kind: 'delta', parts: true })).to.equal('stacked');
    expect(suggestedPicture({ ...facts, series: 80, parts: true, kind: 'delta' })).to.equal('ring');
    expect(suggestedPicture({ ...facts, series: 30 })).to.equal('heat');
    expect(whySuggested('gauge')).to.equal('one bounded number');
  });

  it('and a board that is full takes none more', () => {
    let full: Board | null = board([]);
    for (let i = 0; i < 100; i++) full = full && addPanel(full, pictured('x', signal, 'number'), `n${i}`);
    expect(full && boardSchema.safeParse(full).success).to.equal(true);
    expect(full && addPanel(full, pictured('x', signal, 'number'), 'one-more')).to.equal(null);
  });
});

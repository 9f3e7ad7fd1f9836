import { expect } from 'chai';
import fc from 'fast-check';
import { plainSignal } from '../signal';
import {
  boardColumns,
  boardSchema,
  freePlace,
  limitsProblem,
  mostPanels,
  pictured,
  withPanel,
  type Panel,
  type GridArea
} from './index';

const signal = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });

describe('a board', () => {
  it('puts a panel where it covers no other and moves none, as high as it fits', () => {
    const size = fc.record({ w: fc.integer({ min: 1, max: boardColumns }), h: fc.integer({ min: 1, max: 6 }) });
    fc.assert(
      fc.property(fc.array(size, { maxLength: 25 }), (sizes) => {
        const places: GridArea[] = [];
        for (const one of sizes) places.push(freePlace(places, one));
        const cells = places.flatMap(({ x, y, w, h }) =>
          Array.from({ length: w * h }, (_, i) => `${x + (i % w)} ${y + Math.floor(i / w)}`)
        );
        expect(new Set(cells).size).to.equal(cells.length);
        expect(places.every(({ x, w }) => x >= 0 && x + w <= boardColumns)).to.equal(true);
      })
    );
    expect(freePlace([{ x: 0, y: 0, w: 6, h: 4 }])).to.deep.equal({ x: 6, y: 0, w: 6, h: 4 });
  });

  it('with a panel more is still a board, until it is full', () => {
    let panels: Panel[] = [];
    for (let i = 0; i < mostPanels; i++) panels = withPanel(panels, pictured(`Panel ${i}`, signal, 'lines')) ?? [];
    expect(boardSchema.safeParse({ title: 'Tickets', panels }).success).to.equal(true);
    expect(withPanel(panels, pictured('One too many', signal, 'lines'))).to.equal(null);
    const [first, ...rest] = panels;
    expect(withPanel(rest, pictured('Again', signal, 'lines'))?.at(-1)?.id).to.not.equal(first?.id);
  });

  it('refuses a gauge whose limits contradict each other, to whichever side it gets worse', () => {
    const problem = (worse: 'above' | 'below', warning: number | undefined, danger: number | undefined) => {
      const [panel] = withPanel([], pictured('Use', signal, 'gauge')) as [Panel];
      const gauge = { ...panel, worse, warning, danger };
      return boardSchema.safeParse({ title: 'x', panels: [gauge] }).error?.issues.map(({ path }) => path.join('.'));
    };
    expect(problem('above', 80, 90)).to.equal(undefined);
    expect(problem('above', 80, 60)).to.deep.equal(['panels.0.danger']);
    expect(problem('above', 80, 80), 'equal ones say nothing').to.deep.equal(['panels.0.danger']);
    expect(problem('below', 20, 10)).to.equal(undefined);
    expect(problem('below', 20, 30)).to.deep.equal(['panels.0.danger']);
    expect(problem('above', undefined, 60)).to.equal(undefined);
    expect(limitsProblem({ worse: 'below', warning: 20, danger: 30 })).to.contain('Danger must be below');
  });

  it('is read strictly', () => {
    const [panel] = withPanel([], pictured('Processor', signal, 'lines')) as [Panel];
    const paths = (value: unknown) =>
      boardSchema.safeParse(value).error?.issues.map(({ path }) => path.join('.')) ?? [];
    expect(paths({ title: 'x', panels: [panel] })).to.deep.equal([]);
    expect(paths({ title: ' ', panels: [] })).to.deep.equal(['title']);
    expect(paths({ title: 'x', panels: [panel, panel] })).to.deep.equal(['panels']);
    expect(paths({ title: 'x', panels: [{ ...panel, place: { x: 8, y: 0, w: 6, h: 4 } }] })).to.deep.equal([
      'panels.0.place'
    ]);
    expect(paths({ title: 'x', panels: [{ ...panel, signal: { ...signal, step: '1m' } }] })).to.deep.equal([
      'panels.0.signal.step'
    ]);
  });
});

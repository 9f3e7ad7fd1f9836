import { expect } from 'chai';
import fc from 'fast-check';
import { plainSignal } from '../signal';
import { boardFile, readBoardFile } from './file';
import { starterBoard, starterKeys } from './starters';
import {
  boardSchema,
  mappedBoard,
  namesIn,
  pictured,
  signalPictures,
  withPanel,
  type Board,
  type Panel
} from './index';

const signal = plainSignal({
  metric: 'machine.processor.use',
  statistic: 'avg',
  where: [{ label: 'account', is: ['corallo-prod'] }]
});
const panels = signalPictures.reduce<Panel[]>(
  (all, picture) => withPanel(all, pictured(picture, signal, picture)) ?? all,
  []
);
const board: Board = boardSchema.parse({
  title: 'Tickets: "all" of #1',
  about: 'What – and why',
  pickers: [{ name: 'account', title: 'Account', label: 'account', usual: ['corallo-prod'] }],
  sections: [{ id: 's1', title: 'Host' }],
  panels: panels.map((panel, i) => (i === 1 ? { ...panel, section: 's1' } : panel))
});
const problems = (text: string) => {
  const read = readBoardFile(text);
  return read.kind === 'read' ? [] : read.problems.map(({ path, line, message }) => `${path} @${line}: ${message}`);
};

describe('a board as a file', () => {
  it('comes back as it was, in both formats, and gives the same text again', () => {
    const starters = starterKeys.map((key) => {
      const metrics = starterBoard(key, []).lacks.map((name) => ({
        name,
        title: name,
        kind: 'gauge',
        recommended: true,
        samplingMs: 60_000,
        delayMs: 0,
        isCollected: true
      }));
      return starterBoard(key, metrics).board;
    });
    for (const one of [board, ...starters])
      for (const format of ['yaml', 'json'] as const) {
        const text = boardFile(one, format);
        const read = readBoardFile(text);
        expect(read, one.title).to.deep.equal({ kind: 'read', board: one });
        expect(read.kind === 'read' && boardFile(read.board, format)).to.equal(text);
      }
  });

  it('has its keys in a fixed order, whatever order they were in', () => {
    const shuffled = JSON.parse(JSON.stringify(board), (_, value: unknown) =>
      typeof value === 'object' && value !== null && !Array.isArray(value)
        ? Object.fromEntries(Object.entries(value).reverse())
        : value
    ) as Board;
    expect(boardFile(shuffled, 'yaml')).to.equal(boardFile(board, 'yaml'));
    expect(boardFile({ title: 'Tickets', pickers: [], sections: [], panels: [] }, 'yaml')).to.equal(
      'kind: board\nversion: 1\ntitle: Tickets\npanels: []\n'
    );
  });

  it('holds any text that a title may have', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 40, unit: 'binary' }), (title) => {
        fc.pre(title.trim() !== '');
        const one = { ...board, title: title.trim() };
        expect(readBoardFile(boardFile(one, 'yaml'))).to.deep.equal({ kind: 'read', board: one });
      })
    );
  });

  it('that is wrong is refused with the line and what is wrong, all at once', () => {
    const text = boardFile({ ...board, panels: [] }, 'yaml');
    expect(problems(text.replace('panels: []', 'panels: []\ncolour: red'))).to.deep.equal([
      'colour @17: colour is not known here. Check the spelling, or take it away.'
    ]);
    const [section] = problems(
      'kind: board\nversion: 1\ntitle: x\npanels:\n  - id: p1\n    title: y\n    picture: marks\n    section: s9\n    place: { x: 0, y: 0, w: 6, h: 4 }\n'
    );
    expect(section).to.equal('panels.0.section @8: There is no section s9.');
    expect(problems('kind: board\nversion: 1\ntitle: " "\npanels: 3\n')).to.have.length(2);
    expect(problems('title: [')[0]).to.match(/^ @\d: It is neither YAML nor JSON: /);
    expect(problems('kind: alarm')).to.deep.equal([
      ' @null: It is not a file of a board: the first line of one is “kind: board”.'
    ]);
    expect(problems('')).to.have.length(1);
  });

  it('of a newer version, or far too large, or that grows by references, is refused in words', () => {
    expect(problems('kind: board\nversion: 7\nshapes: []')[0]).to.match(
      /written by a newer Bussola, in version 7 .*reads version 1/
    );
    expect(problems('x'.repeat(50_000_000))).to.deep.equal([
      ' @null: The file has 50 MB; a board has at most 2. It is probably not a board.'
    ]);
    const laughs = [
      'a: &a [x, x, x, x, x, x, x, x, x]',
      ...'bcdefgh'.split('').map(
        (name, i) =>
          `${name}: &${name} [${Array<string>(9)
            .fill(`*${'abcdefg'[i] ?? ''}`)
            .join(', ')}]`
      )
    ];
    expect(problems(`kind: board\n${laughs.join('\n')}`)).to.deep.equal([
      ' @null: It refers to itself too often to be a board.'
    ]);
  });

  it('never breaks, whatever the text', () => {
    fc.assert(
      fc.property(
        fc.oneof(
          fc.string(),
          fc.json().map((text) => `kind: board\nversion: 1\nx: ${text}`)
        ),
        (text) => {
          const read = readBoardFile(text);
          expect(read.kind === 'read' || read.problems.length > 0).to.equal(true);
        }
      )
    );
  });
});

describe('a board in another workspace', () => {
  it('names metrics and values of labels', () => {
    expect(namesIn(board)).to.deep.equal({
      metrics: ['machine.processor.use'],
      values: { account: ['corallo-prod'] }
    });
  });

  it('has other names in the place of some, everywhere, and is the same after the way back', () => {
    const there = mappedBoard(board, {
      labels: { account: 'tag.site' },
      values: { 'tag.site': { 'corallo-prod': 'perla' } },
      metrics: { 'machine.processor.use': 'host.cpu' }
    });
    expect(namesIn(there)).to.deep.equal({ metrics: ['host.cpu'], values: { 'tag.site': ['perla'] } });
    expect(there.pickers[0]).to.include({ label: 'tag.site' });
    expect(boardSchema.safeParse(there).success).to.equal(true);
    const back = mappedBoard(there, {
      labels: { 'tag.site': 'account' },
      values: { account: { perla: 'corallo-prod' } },
      metrics: { 'host.cpu': 'machine.processor.use' }
    });
    expect(back).to.deep.equal(board);
    expect(mappedBoard(board, {})).to.deep.equal(board);
  });
});

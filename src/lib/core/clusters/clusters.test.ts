import { expect } from 'chai';
import fc from 'fast-check';
import { readSearch } from '../logs';
import { byFullness, groupsOf, linesSearch, shareOf, sumOf, useStanding, type Container, type Use } from './index';

const use = (used: number | null, requested: number | null = 256, limit: number | null = 512): Use => ({
  used,
  requested,
  limit
});
const container = (copy: string, node: string, memory: Use, restarts = 0): Container => ({
  ...{ copy, workload: copy.replace(/-\d+$/, ''), node, memory, processor: use(0.1, 0.25, 1), restarts }
});

describe('what parts of a cluster use', () => {
  it('stands against request and limit', () => {
    expect([use(100), use(300), use(470), use(null), use(900, 256, null)].map(useStanding)).to.deep.equal([
      'as requested',
      'above request',
      'near limit',
      'unknown',
      'above request'
    ]);
    expect([use(128), use(128, null, null), use(128, null, 0)].map(shareOf)).to.deep.equal([0.25, null, null]);
  });

  it('adds up: a sum of requests and limits only where all have one', () => {
    expect(sumOf([use(1, 1, 2), use(3, null, 4)])).to.deep.equal({ used: 4, requested: null, limit: 6 });
    expect(sumOf([use(null), use(3)])).to.deep.equal({ used: 3, requested: 512, limit: 1024 });
    expect(sumOf([])).to.deep.equal({ used: null, requested: null, limit: null });
  });

  it('is in every group once, whatever there is: nothing is lost, nothing counted twice', () => {
    const containers = fc.array(
      fc.record({
        copy: fc.constantFrom('quote-1', 'quote-2', 'seatmap-1', 'notice-7'),
        node: fc.constantFrom('n1', 'n2'),
        used: fc.option(fc.integer({ min: 0, max: 1000 })),
        limit: fc.option(fc.integer({ min: 1, max: 1000 })),
        restarts: fc.integer({ min: 0, max: 5 })
      })
    );
    fc.assert(
      fc.property(containers, (all) => {
        const given = all.map(({ copy, node, used, limit, restarts }) =>
          container(copy, node, use(used, null, limit), restarts)
        );
        for (const by of ['workload', 'node'] as const) {
          const groups = groupsOf(given, by);
          expect(groups.reduce((sum, one) => sum + one.containers.length, 0)).to.equal(given.length);
          const total = (of: readonly { readonly restarts: number }[]) =>
            of.reduce((sum, one) => sum + one.restarts, 0);
          expect(total(groups)).to.equal(total(given));
          for (const { fullest, containers: own } of groups) {
            const shares = own.flatMap(({ memory }) => shareOf(memory) ?? []);
            expect(fullest === null ? -1 : shareOf(fullest.memory)).to.equal(
              shares.length === 0 ? -1 : Math.max(...shares)
            );
          }
        }
        const shares = byFullness(given).map(({ memory }) => shareOf(memory) ?? -1);
        expect(shares).to.deep.equal([...shares].sort((a, b) => b - a));
      })
    );
  });

  it('has groups also where nothing runs', () => {
    const groups = groupsOf([container('quote-1', 'n1', use(100))], 'node', ['n2', 'n1']);
    expect(groups.map(({ name, containers }) => [name, containers.length])).to.deep.equal([
      ['n1', 1],
      ['n2', 0]
    ]);
  });
});

describe('the search for lines of a part', () => {
  it('can be read, whatever the names are', () => {
    const name = fc.string({ minLength: 1, maxLength: 20 });
    fc.assert(
      fc.property(name, name, (account, copy) => {
        for (const part of [
          { kind: 'cluster', cluster: copy },
          { kind: 'node', node: copy },
          { kind: 'workload', workload: copy },
          { kind: 'container', copy }
        ] as const)
          expect(() => readSearch(linesSearch(account, part)), linesSearch(account, part)).to.not.throw();
      })
    );
  });
});

import { expect } from 'chai';
import fc from 'fast-check';
import { instant } from '../time';
import { groupRelated, relationsBetween, type Relatable } from './index';

const made = (id: number, account: string, resource: string, minutes: number): Relatable => ({
  ...{ id, account, resource },
  openedAt: instant(1_777_881_600_000 + minutes * 60_000)
});
const ids = (groups: ReturnType<typeof groupRelated>) => groups.map(({ incidents }) => incidents.map(({ id }) => id));

describe('incidents that belong together', () => {
  it('are on the same resource, in an account that sends nothing, or were raised in the same minute', () => {
    const all = [
      made(1, 'corallo-prod', 'gate-api-1', 0),
      made(2, 'perla-data', 'fares-replica', 3),
      made(3, 'corallo-prod', 'gate-api-1', 9),
      made(4, 'fleet-edge', 'quote', 9.5),
      made(5, 'perla-data', 'ticket-orders', 20),
      made(6, 'corallo-staging', 'gate-api-1', 30)
    ];
    const groups = groupRelated(all, new Set(['perla-data']));
    expect(ids(groups)).to.deep.equal([[1, 3, 4], [2, 5], [6]]);
    expect(groups.map(({ why }) => why)).to.deep.equal([['resource', 'minute'], ['account'], []]);
    expect(ids(groupRelated(all, new Set())), 'an account that sends is no reason').to.deep.equal([
      [1, 3, 4],
      [2],
      [5],
      [6]
    ]);
  });

  it('what has no resource belongs to no other for that', () => {
    const [one, other] = [made(1, 'corallo-prod', '', 0), made(2, 'corallo-prod', '', 5)];
    expect(relationsBetween(one, other, new Set())).to.deep.equal([]);
    expect(groupRelated([one, other], new Set())).to.have.length(2);
  });

  it('are grouped as a slow search groups them, whatever their order', () => {
    const incident = fc.record({
      account: fc.constantFrom('a', 'b', 'c', ''),
      resource: fc.constantFrom('x', 'y', 'z', ''),
      minutes: fc.integer({ min: 0, max: 40 })
    });
    fc.assert(
      fc.property(fc.array(incident, { maxLength: 25 }), fc.subarray(['a', 'b', 'c']), (drafts, dark) => {
        const all = drafts.map(({ account, resource, minutes }, id) => made(id, account, resource, minutes));
        const silent = new Set(dark);
        const groups = groupRelated(all, silent);
        expect(ids(groups)).to.deep.equal(slowGroups(all, silent));
        for (const { incidents, why } of groups) expect(why.length > 0).to.equal(incidents.length > 1);
      })
    );
  });
});

/** Whatever can be reached from each, step by step. */
function slowGroups(all: readonly Relatable[], dark: ReadonlySet<string>): number[][] {
  const left = [...all];
  const groups: number[][] = [];
  for (let first = left.shift(); first; first = left.shift()) {
    const group = [first];
    for (let i = 0; i < group.length; i++)
      for (const other of [...left])
        if (relationsBetween(group[i] as Relatable, other, dark).length > 0) {
          group.push(other);
          left.splice(left.indexOf(other), 1);
        }
    groups.push(group.map(({ id }) => id).sort((a, b) => a - b));
  }
  return groups;
}

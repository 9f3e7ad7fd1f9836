import { expect } from 'chai';
import fc from 'fast-check';
import { governs, rightOn, type BoardRight, type Sharing } from './index';

describe('what somebody may do with a board', () => {
  const shared: Sharing & { owner: number | null } = { owner: 3, reach: 'workspace', everyone: 'edit', named: [] };
  const viewer = { id: 7, role: 'viewer' } as const;
  const editor = { id: 8, role: 'editor' } as const;

  it('is to see the workspace’s boards, and for editors to change them unless the board says otherwise', () => {
    expect([rightOn(shared, viewer), rightOn(shared, editor)]).to.deep.equal(['view', 'edit']);
    expect(rightOn({ ...shared, everyone: 'view' }, editor)).to.equal('view');
    expect(rightOn({ ...shared, everyone: 'view' }, { id: 3, role: 'editor' })).to.equal('edit');
  });

  it('of a private one is nothing, but for its owner, those named and administrators', () => {
    const own = { ...shared, reach: 'private' } as const;
    expect([rightOn(own, viewer), rightOn(own, editor)]).to.deep.equal([null, null]);
    expect(rightOn(own, { id: 3, role: 'editor' })).to.equal('edit');
    expect(rightOn(own, { id: 9, role: 'administrator' })).to.equal('edit');
    expect(rightOn({ ...own, named: [{ person: 8, may: 'edit' }] }, editor)).to.equal('edit');
    expect(rightOn({ ...own, named: [{ role: 'viewer', may: 'view' }] }, viewer)).to.equal('view');
    expect(rightOn({ ...own, named: [{ role: 'viewer', may: 'view' }] }, editor)).to.equal(null);
    expect(rightOn({ ...own, owner: null }, editor)).to.equal(null);
  });

  it('is never more than the person’s role allows elsewhere', () => {
    expect(rightOn({ ...shared, named: [{ person: 7, may: 'edit' }] }, viewer)).to.equal('view');
    expect(rightOn({ ...shared, reach: 'private' }, { id: 3, role: 'viewer' })).to.equal('view');
    expect(rightOn({ ...shared, named: [{ role: 'viewer', may: 'edit' }] }, viewer)).to.equal('view');
  });

  it('to remove it, share it further and publish it takes its owner or an administrator, of a board of the workspace an editor', () => {
    const own = { ...shared, reach: 'private', named: [{ person: 8, may: 'edit' }] } as const;
    expect(governs({ ...own, named: [...own.named] }, editor)).to.equal(false);
    expect(governs({ ...own, named: [] }, { id: 3, role: 'editor' })).to.equal(true);
    expect(governs({ ...own, named: [] }, { id: 3, role: 'viewer' })).to.equal(false);
    expect(governs({ ...own, named: [] }, { id: 9, role: 'administrator' })).to.equal(true);
    expect(governs(shared, editor)).to.equal(true);
    expect(governs({ ...shared, everyone: 'view' }, editor)).to.equal(false);
    expect(governs(shared, viewer)).to.equal(false);
  });

  it('never becomes less by naming somebody more', () => {
    const may = fc.constantFrom<BoardRight>('view', 'edit');
    const named = fc.array(
      fc.oneof(
        fc.record({ person: fc.integer({ min: 1, max: 4 }), may }),
        fc.record({ role: fc.constantFrom('viewer' as const, 'editor' as const), may })
      ),
      { maxLength: 5 }
    );
    const rank = (right: BoardRight | null) => ([null, 'view', 'edit'] as const).indexOf(right);
    fc.assert(
      fc.property(
        named,
        named,
        fc.constantFrom('private' as const, 'workspace' as const),
        may,
        fc.integer({ min: 1, max: 4 }),
        (some, more, reach, everyone, id) => {
          const person = { id, role: 'editor' } as const;
          const few = rightOn({ owner: null, reach, everyone, named: some }, person);
          expect(rank(rightOn({ owner: null, reach, everyone, named: [...some, ...more] }, person))).to.be.at.least(
            rank(few)
          );
        }
      )
    );
  });
});

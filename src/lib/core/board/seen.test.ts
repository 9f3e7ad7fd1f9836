import { expect } from 'chai';
import { instant } from '../time';
import { seenState } from './seen';

const hour = 3_600_000;
const now = instant(1000 * hour);
const at = (hours: number) => instant(now + hours * hour);

describe('a resource that was seen', () => {
  const old = { firstSeenAt: at(-500), endedAt: null, dueBy: at(0) };

  it('has ended, is silent, new, reporting or not collected, the most urgent first', () => {
    expect(seenState(old, now)).to.equal('reporting');
    expect(seenState({ ...old, endedAt: at(-1), dueBy: at(-3) }, now)).to.equal('ended');
    expect(seenState({ ...old, firstSeenAt: at(-3), dueBy: at(-1) }, now)).to.equal('silent');
    expect(seenState({ ...old, firstSeenAt: at(-48) }, now)).to.equal('new');
    expect(seenState({ ...old, firstSeenAt: at(-49) }, now)).to.equal('reporting');
    expect(seenState({ ...old, dueBy: null }, now)).to.equal('not collected');
  });

  it('is not silent while its sample is only a little late', () => {
    expect(seenState({ ...old, dueBy: instant(now - 15 * 60_000) }, now)).to.equal('reporting');
    expect(seenState({ ...old, dueBy: instant(now - 15 * 60_000 - 1) }, now)).to.equal('silent');
  });
});

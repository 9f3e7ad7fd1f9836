import { expect } from 'chai';
import { Health } from './health';

describe('health', () => {
  it('comes from the age of what was done last', () => {
    let now = 1_000;
    const health = new Health(true, () => now);
    const after = (ms: number, did: 'committed' | 'progressed' | null = null) => {
      now += ms;
      if (did !== null) health[did]();
      return health.report();
    };
    expect(after(10_000)).to.include({ ok: true, sinceCommit: 10, sinceProgress: 10 });
    expect(after(40_000).faults).to.deep.equal(['The database has confirmed nothing for 50 s.']);
    expect(after(0, 'committed').ok).to.equal(true);
    expect(after(44_000)).to.include({ ok: false, sinceProgress: 94 });
    expect(after(0).faults).to.deep.equal(['The engine has got no further for 94 s.']);
    expect(after(0, 'progressed')).to.include({ ok: true, sinceProgress: 0 });
    health.close();
  });
});

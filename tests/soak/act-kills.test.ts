import { expect } from 'chai';
import { actPoints } from '../../src/lib/server/base/kill-points';
import { actKillCampaign } from './act-kills';

/** How often the process is killed. A campaign of many more: `node --import tsx tests/soak/act-kills.ts`. */
const kills = Number(process.env['BUSSOLA_ACT_KILLS'] ?? actPoints.length);

describe('a process that is killed between an act being decided and its answer being noted', () => {
  it(`does everything at most once and knows what became of it, killed ${kills} times`, async () => {
    const { kills: counts, runs, unknown, repeated } = await actKillCampaign(kills);
    expect([unknown, repeated], 'known, and sent once').to.deep.equal([0, 0]);
    expect(runs.length, 'something was done').to.be.at.least(kills);
    // What is said to be done was done once, and what is said not to have been was not.
    for (const { state, done } of runs) expect(done, state).to.equal(state === 'done' ? 1 : 0);
    expect(runs.filter(({ state }) => state === 'done')).to.have.length.at.least(Math.floor(kills / 2));
    for (const point of actPoints) expect(counts[point]).to.be.at.least(Math.floor(kills / actPoints.length));
  }).timeout(1_200_000);
});

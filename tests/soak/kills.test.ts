import { expect } from 'chai';
import { killPoints } from '../../src/lib/server/base/kill-points';
import { killCampaign } from './kills';

/** How often the process is killed. A campaign of many more: `node --import tsx tests/soak/kills.ts`. */
const kills = Number(process.env['BUSSOLA_KILLS'] ?? 10);

describe('a process that is killed between a judgement and its message being noted as sent', () => {
  it(`notifies each recipient of every change once, killed ${kills} times`, async () => {
    const { kills: counts, transitions, mails, webhooks } = await killCampaign(kills);
    const wanted = { raised: Math.ceil(transitions / 2), cleared: Math.floor(transitions / 2) };
    expect(transitions, 'changes of state').to.be.at.least(Math.floor(kills / killPoints.length));
    expect(mails).to.deep.equal(wanted);
    expect(webhooks).to.deep.equal(wanted);
    for (const point of killPoints) expect(counts[point]).to.be.at.least(Math.floor(kills / killPoints.length));
  }).timeout(1_200_000);
});

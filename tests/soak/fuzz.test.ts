import { expect } from 'chai';
import { formats } from './fuzz-inputs';
import { fuzzFormat, fuzzTarget, type FuzzTarget } from './fuzz';

/** Inputs of each format. A campaign of many more: `node --import tsx tests/soak/fuzz.ts`. */
const inputs = Number(process.env['BUSSOLA_FUZZ'] ?? 1_000);

describe('what chance makes of good inputs', () => {
  let target: FuzzTarget;
  const seed = Math.floor(Math.random() * 1e9);
  before(async function () {
    this.timeout(240_000);
    target = await fuzzTarget();
  });
  after(async function () {
    this.timeout(90_000);
    await target.app.stop();
  });

  for (const format of Object.keys(formats))
    it(`never breaks or holds the web process: ${format}, ${inputs} inputs from seed ${seed}`, async () => {
      const { broke, stalls, statuses } = await fuzzFormat(target, format, inputs, seed);
      expect(broke, target.app.logged.slice(-2_000)).to.deep.equal([]);
      expect(stalls).to.deep.equal([]);
      expect(Object.values(statuses).reduce((sum, count) => sum + count, 0)).to.equal(inputs);
    }).timeout(600_000);
});

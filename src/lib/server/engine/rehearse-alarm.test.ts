import { expect } from 'chai';
import { plainDetails, rule, threshold } from '../../../../tests/support/alarm';
import { connectMachines, withHouse } from '../../../../tests/support/bussola';
import type { AlarmDefinition } from '../../core/alarm';
import { plainSignal } from '../../core/signal';

describe('rehearsing an alarm that is not saved', () => {
  const house = withHouse();
  const definition: AlarmDefinition = {
    name: 'Busy',
    signal: plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
    rule: rule(1, 1, { levels: [threshold('above', 1)] }),
    ...plainDetails,
    route: null
  };
  const rehearsed = (alarm: AlarmDefinition, days = 1) =>
    house.bussola.judging.rehearse(house.clock.now(), { alarm, days, zone: 'UTC', id: null, propose: true });

  before(async function () {
    this.timeout(90_000);
    await connectMachines(house);
  });

  it('says what it would have done on each series, in one answer', async () => {
    const answer = await rehearsed(definition);
    if ('code' in answer) throw new Error(answer.message);
    expect(answer.series.length).to.be.above(3);
    expect(answer.to - answer.from).to.equal(86_400_000);
    expect(answer.windows).to.equal(answer.series.length * 1440);
    expect(answer.unit).to.equal('%');
    expect(answer.figures.count).to.be.at.least(answer.periods.length > 0 ? 1 : 0);
    expect(answer.periods.length).to.be.above(3);
    const { series, severity, peak } = answer.periods[0]!;
    expect([answer.series[series]?.labels.account, severity]).to.deep.equal(['corallo-prod', 'major']);
    expect(peak).to.be.above(1);
  });

  it('refuses what would take too long, and says how much would do', async () => {
    const minute = { ...definition, signal: { ...definition.signal!, step: 'PT1M' } };
    const answer = await house.bussola.judging.rehearse(house.clock.now(), {
      ...{ alarm: minute, days: 30 * 40, zone: 'UTC', id: null, propose: false }
    });
    expect(answer).to.include({ code: 'too-many-cells' });
    expect('remedy' in answer && answer.remedy).to.match(/^Choose \d+ days or fewer/);
  });

  it('of a signal that cannot be evaluated says why', async () => {
    const unknown = { ...definition, signal: plainSignal({ metric: 'no.such', statistic: 'avg' }) };
    expect(await rehearsed(unknown)).to.include({ code: 'unknown-metric' });
  });
});

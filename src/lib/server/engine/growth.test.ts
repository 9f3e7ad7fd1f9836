import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { connect, incidentsOfAlarm, liveMinutes, processorAlarm, withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import { plainSignal } from '../../core/signal';
import { seriesStates } from '../alarms/alarms';
import { changesOfIncident } from '../incidents/incidents';
import { seriesOfMetric } from '../inventory/series';

describe('an alarm on the rate of a running total', () => {
  const house = withHouse();
  const metric = 'object-store.requests';

  it('judges a cell when the samples at both of its ends are there, not before', async () => {
    const { db } = house.bussola;
    const { id } = await connect(house, 'ostro', {
      provider: 'ostro',
      keyId: 'bussola-reader',
      secret: 'demo-only-ostro-71c0e2'
    });
    await until('its series', async () => (await seriesOfMetric(db, metric)).length > 0);
    const alarm = await processorAlarm(house, 'any', {
      signal: plainSignal({ metric, statistic: 'rate' }),
      rule: rule(3, 3, { levels: [threshold('above', -1)] })
    });
    await liveMinutes(house, id, 8, 'objects');
    await until('raised', async () => {
      const states = await seriesStates(db, alarm.id);
      return states.length > 0 && states.every(({ state }) => state === 'raised');
    });
    const [incident] = await incidentsOfAlarm(house, alarm);
    const [change] = await changesOfIncident(db, incident?.id ?? 0);
    expect(change?.evidence.values).to.have.length(3);
    expect(change?.evidence.values.every((value) => value !== null && value >= 0)).to.equal(true);
  }).timeout(240_000);
});

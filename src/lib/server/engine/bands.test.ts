import { expect } from 'chai';
import { randomFrom } from '../../../../bench/band-series';
import { plainDetails, rule } from '../../../../tests/support/alarm';
import { withHouse } from '../../../../tests/support/bussola';
import { until } from '../../../../tests/support/until';
import type { AlarmDefinition } from '../../core/alarm';
import { readingAt } from '../../core/receive/received';
import { plainSignal } from '../../core/signal';
import { before, day, hour, inRange, minute, range, times, type Instant } from '../../core/time';
import { historyToJudge, insertAlarm, seriesStates, wantHistory } from '../alarms/alarms';
import { changesOfIncident } from '../incidents/incidents';
import { incidentsIn } from '../incidents/span';
import { keyByText, makeKey } from '../intake/receive/keys';
import { storeReceived } from '../intake/receive/receive';

describe('alarms on anomaly bands', () => {
  const house = withHouse();
  const cell = times(5, minute);

  it('find over history what is unusual for its hour though below any limit, with the edges of the band in force', async () => {
    const { bussola } = house;
    const { db, clock } = bussola;
    const now = clock.now();
    const to = (Math.floor(now / cell) * cell) as Instant;
    const midnight = to - (to % day);
    /** Slow for two hours of a quiet night, though faster than on any afternoon. */
    const trouble = range((midnight - times(3, hour)) as Instant, (midnight - hour) as Instant);
    const random = randomFrom(3);
    const samples = Array.from({ length: 9 * 288 }, (_, i) => {
      const at = to - (9 * 288 - i) * cell;
      const usual = 60 + 40 * Math.sin(2 * Math.PI * ((at % day) / day - 0.35));
      const value = (inRange(trouble, at as Instant) ? usual + 35 : usual) + 3 * (random() - random());
      return { at: at as Instant, value };
    });
    await send(samples.map(({ at, value }) => readingAt(at, value)));
    const signal = plainSignal({ metric: 'gate.wait', statistic: 'avg', step: 'PT5M' });
    const definition: AlarmDefinition = {
      name: 'Slow for the hour',
      signal,
      rule: rule(3, 4, { levels: [{ severity: 'minor', condition: { kind: 'band', is: 'above', widths: 5 } }] }),
      ...plainDetails,
      route: null
    };
    const span = range(before(to, times(2, day)), to);
    const { id } = await db.transaction(async (within) => {
      const alarm = await insertAlarm(within, definition, 'Kaja', now);
      await wantHistory(within, alarm.id, span);
      return alarm;
    });
    await until('all of it is judged', async () => (await historyToJudge(db)).length === 0, 60_000);
    const found = (await incidentsIn(db, span)).filter(({ alarmId }) => alarmId === id);
    expect(found).to.have.length(1);
    const [incident] = found;
    expect(incident!.openedAt - trouble.from).to.equal(3 * cell);
    expect(incident!.closedAt! - trouble.to).to.be.within(cell, 3 * cell);
    const most = Math.max(...samples.flatMap(({ at, value }) => (inRange(trouble, at) ? [value] : [])));
    expect(samples.filter(({ at, value }) => value > most && !inRange(trouble, at))).to.have.length.above(500);
    const [raised] = await changesOfIncident(db, incident!.id);
    const { values, high, low } = raised!.evidence;
    expect(low).to.deep.equal([null]);
    expect(values.at(-1)!).to.be.above(high.at(-1)!);
    await until('judged now', async () => (await seriesStates(db, id))[0]?.state === 'clear');
  }).timeout(300_000);

  /** As a program with a key would. */
  async function send(points: ReturnType<typeof readingAt>[]): Promise<void> {
    const { db, clock } = house.bussola;
    const { text } = await makeKey(db, {
      ...{
        name: 'gate',
        expiresAt: null,
        mostSeries: 10,
        mostBytesADay: 10_000_000,
        createdAt: clock.now(),
        createdBy: 'test'
      }
    });
    const key = (await keyByText(db, text, clock.now()))!;
    const taken = await storeReceived(house.bussola, key, {
      series: [
        {
          resource: { id: 'gate-7', name: 'gate-7', tags: {} },
          metric: { name: 'gate.wait', description: '', unit: 'ms', kind: 'gauge' },
          ...{ labels: {}, weight: 1, points, starts: points.map(() => null) }
        }
      ],
      refused: [],
      faults: []
    });
    expect(taken.accepted).to.equal(points.length);
  }
});

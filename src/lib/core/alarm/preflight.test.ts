import { expect } from 'chai';
import { alarm, rule } from '../../../../tests/support/alarm';
import { cellStart, duration, instant, minute } from '../time';
import { preflight, type AlarmDefinition } from './index';

describe('preflight', () => {
  const facts = {
    watched: { unit: '%', samplingMs: minute, delayMs: duration(50_000), everyMs: minute },
    seen: { smallest: 3, largest: 70 },
    series: 10,
    channels: [
      { id: 1, address: 'nerea.olmo@example.test', confirmed: true },
      { id: 2, address: 'harbour-duty@example.test', confirmed: false }
    ],
    rehearsal: { periods: [], windows: 0 }
  };
  const failing = (changed: Partial<AlarmDefinition>, more = {}) =>
    preflight({ ...alarm, ...changed }, { ...facts, ...more })
      .filter(({ passed }) => !passed)
      .map(({ id }) => id);

  it('passes an alarm that is in order, and says so in sentences', () => {
    expect(failing({})).to.deep.equal([]);
    expect(preflight(alarm, facts).map(({ says }) => says)).to.include(
      'Reported every 1 min, at most 50 s late: raised 3 min 50 s after it starts, at the earliest.'
    );
  });

  it('finds what would fail silently', () => {
    expect(failing({ channels: [] })).to.deep.equal(['told']);
    expect(failing({ channels: [1, 2] })).to.deep.equal(['confirmed']);
    expect(failing({}, { series: 0 })).to.deep.equal(['matches']);
    expect(failing({}, { watched: { ...facts.watched, samplingMs: duration(300_000) } })).to.deep.equal(['timing']);
    expect(failing({ rule: rule(1, 1, { condition: { is: 'above', threshold: 100 } }) })).to.deep.equal(['threshold']);
    expect(failing({ rule: rule(1, 1, { condition: { is: 'below', threshold: 150 } }) })).to.deep.equal(['threshold']);
    expect(failing({}, { watched: { ...facts.watched, everyMs: duration(900_000) } })).to.deep.equal(['batches']);
    expect(failing({ rule: rule(12, 10) })).to.deep.equal(['window']);
    const share = { watched: { ...facts.watched, unit: '1' }, seen: { smallest: 0, largest: 1 } };
    expect(failing({ rule: rule(1, 1, { condition: { is: 'above', threshold: 1.2 } }) }, share)).to.deep.equal([
      'threshold'
    ]);
    expect(failing({ rule: rule(1, 1, { condition: { is: 'below', threshold: 1 } }) }, share)).to.deep.equal([]);
    const period = {
      seriesId: 1,
      from: cellStart({ start: instant(0), step: minute, count: 1 }, 0),
      to: null,
      peak: 1
    };
    expect(failing({}, { rehearsal: { periods: Array.from({ length: 7 }, () => period), windows: 7 } })).to.deep.equal([
      'calm'
    ]);
  });
});

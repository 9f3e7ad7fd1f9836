import { expect } from 'chai';
import fc from 'fast-check';
import { hour, instant, minute, type Range } from '../time';
import { isInView, noiseOf, type Noise, type PastPeriod } from './noise';

describe('how an alarm behaved', () => {
  const base = 240 * hour;
  const span: Range = { from: instant(base), to: instant(base + 24 * hour) };
  const period = (key: string, from: number, to: number | null, severity: PastPeriod['severity'] = 'major') => ({
    ...{ key, severity, isAcknowledged: key === 'd', from: instant(base + from * minute) },
    to: to === null ? null : instant(base + to * minute)
  });

  it('counts, flaps by series, and joins what overlaps with the gravest severity', () => {
    const noise = noiseOf(
      [
        period('a', 100, 110),
        period('a', 150, 160, 'critical'),
        period('b', 155, 200),
        period('b', 600, 700),
        period('c', -50, 20, 'minor'),
        period('c', 1380, null),
        period('d', 1370, null)
      ],
      span
    );
    expect(noise).to.deep.include({ count: 6, flapping: 1, openFor: hour });
    expect(
      noise.strip.map(({ from, to, severity }) => [(from - base) / minute, (to - base) / minute, severity])
    ).to.deep.equal([
      [0, 20, 'minor'],
      [100, 110, 'major'],
      [150, 200, 'critical'],
      [600, 700, 'major'],
      [1370, 1440, 'major']
    ]);
    expect(noise.share).to.be.closeTo((20 + 10 + 50 + 100 + 70) / 1440, 1e-9);
  });

  it('its share is that of minutes at which anything was raised', () => {
    const any = fc.record({
      key: fc.constantFrom('a', 'b'),
      from: fc.integer({ min: -100, max: 1400 }),
      length: fc.integer({ min: 1, max: 300 })
    });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 12 }), (all) => {
        const periods = all.map(({ key, from, length }) => period(key, from, from + length));
        const minutes = Array.from({ length: 1440 }, (_, at) =>
          all.some(({ from, length }) => at >= from && at < from + length)
        ).filter(Boolean).length;
        expect(noiseOf(periods, span).share).to.be.closeTo(minutes / 1440, 1e-9);
      })
    );
  });

  it('decides which view shows it', () => {
    const calm: Noise = { count: 0, flapping: 0, share: 0, openFor: minute, strip: [] };
    const alarm = { enabled: true, raised: 0, notifies: true, watchedFor: 30 * 24 * hour, noise: calm };
    expect(isInView('never', alarm)).to.equal(true);
    expect(isInView('never', { ...alarm, watchedFor: hour })).to.equal(false);
    expect(isInView('flapping', { ...alarm, noise: { ...calm, flapping: 3 } })).to.equal(true);
    expect(isInView('always', { ...alarm, noise: { ...calm, share: 0.6 } })).to.equal(true);
    expect(isInView('unheeded', { ...alarm, noise: { ...calm, openFor: (25 * hour) as never } })).to.equal(true);
    expect(isInView('unheeded', { ...alarm, notifies: false, noise: { ...calm, count: 5 } })).to.equal(true);
    expect(isInView('off', { ...alarm, enabled: false })).to.equal(true);
    expect(isInView('never', { ...alarm, enabled: false })).to.equal(false);
    expect(isInView('raised', { ...alarm, raised: 2 })).to.equal(true);
  });
});

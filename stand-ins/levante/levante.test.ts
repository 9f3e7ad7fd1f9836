import { expect } from 'chai';
import fc from 'fast-check';
import type { Stress } from '../world/stress';
import { delayOf, pointOf as pointIn } from './numbers';
import { fetchPage, pagePoints } from './fetch';
import { machines, metrics as all, type LevanteResource } from './world';

const metrics = all.filter(({ resourceType, level }) => resourceType === 'machine' && level === 'host');
const metricNamed = (name: string) => metrics.find((metric) => metric.name === name)!;
const pointOf = (seed: number, machine: LevanteResource, metric: string, at: number, stresses: readonly Stress[]) =>
  pointIn({ seed, start, stresses }, machine, metricNamed(metric), '', at);
const world = (seed: number) => ({ seed, start, stresses: [] });
const everyone = () => true;
const minute = 60_000;
const start = Date.parse('2026-05-04T00:00:00Z');
const anyMachine = fc.constantFrom(...machines);
const anyMetric = fc.constantFrom(...metrics.map(({ name }) => name));
const anyMinute = fc.integer({ min: 0, max: 60 * 24 * 400 }).map((n) => start + n * minute);

describe('the numbers of Levante', () => {
  it('are a pure function of seed, series and time, within their bounds', () => {
    fc.assert(
      fc.property(fc.nat(1000), anyMachine, anyMetric, anyMinute, (seed, machine, metric, at) => {
        const point = pointOf(seed, machine, metric, at, [])!;
        expect(point).to.deep.equal(pointOf(seed, machine, metric, at, []));
        expect(point.count).to.equal(12);
        expect(point.min).to.be.at.least(0).and.at.most(point.max);
        expect(point.sum / 12).to.be.within(point.min - 0.01, point.max + 0.01);
        if (metric.endsWith('.use')) expect(point.max).to.be.at.most(100);
      })
    );
  });

  it('differ between seeds, series and minutes', () => {
    const [a, b] = machines;
    const values = [
      pointOf(1, a!, 'machine.memory.use', start, []),
      pointOf(2, a!, 'machine.memory.use', start, []),
      pointOf(1, b!, 'machine.memory.use', start, []),
      pointOf(1, a!, 'machine.memory.use', start + minute, [])
    ];
    expect(new Set(values.map((point) => point?.sum)).size).to.equal(4);
  });

  it('a person would recognise: evenings busier than nights, departures every 40 minutes', () => {
    const web = machines.find(({ name }) => name === 'booking-web-1')!;
    const gate = machines.find(({ name }) => name === 'gate-api-1')!;
    const average = (machine: typeof web, at: number) => pointOf(1, machine, 'machine.processor.use', at, [])!.sum / 12;
    expect(average(web, start + 17.5 * 60 * minute)).to.be.above(2 * average(web, start + 3.5 * 60 * minute));
    expect(average(gate, start + 8 * 60 * minute + 4 * minute)).to.be.above(
      average(gate, start + 8 * 60 * minute + 20 * minute) + 15
    );
  });

  it('a stress draws only its resource, metric and time; silence is no point', () => {
    const [machine, other] = machines;
    const stress: Stress = {
      resource: machine!.id,
      metric: 'machine.processor.use',
      value: 96,
      from: start,
      until: start + 2 * minute
    };
    const average = (m: typeof machine, metric: string, at: number) => pointOf(1, m!, metric, at, [stress])!.sum / 12;
    expect(average(machine, 'machine.processor.use', start)).to.be.within(94, 98);
    for (const [m, metric, at] of [
      [machine, 'machine.processor.use', start + 2 * minute],
      [machine, 'machine.memory.use', start],
      [other, 'machine.processor.use', start]
    ] as const)
      expect(pointOf(1, m!, metric, at, [stress])).to.deep.equal(pointOf(1, m!, metric, at, []));
    expect(pointOf(1, machine!, 'machine.processor.use', start, [{ ...stress, value: null }])).to.equal(null);
  });
});

describe('a batched fetch', () => {
  it('read page by page gives every point once, in order, and none before it is reported', () => {
    const wanted = machines.slice(0, 10).map(({ id }) => ({ resource: id, metric: 'machine.processor.use' }));
    const now = start + 2000 * minute;
    const from = start + 100 * minute;
    const got = new Map<number, number[]>();
    let token: string | null = null;
    let pages = 0;
    do {
      const page = fetchPage(world(1), wanted, from, now, now, everyone, token);
      expect(page.series.reduce((sum, { points }) => sum + points.length, 0)).to.be.at.most(pagePoints);
      for (const { index, points } of page.series)
        got.set(index, [...(got.get(index) ?? []), ...points.map(([seconds]) => seconds * 1000)]);
      token = page.next;
      pages++;
    } while (token !== null);
    expect(pages).to.equal(2);
    machines.slice(0, 10).forEach((machine, index) => {
      const last = Math.floor((now - minute - delayOf(1, machine, 'machine.processor.use')) / minute) * minute;
      const expected = Array.from({ length: (last - from) / minute + 1 }, (_, i) => from + i * minute);
      expect(got.get(index)).to.deep.equal(expected);
    });
  });

  it('refuses a token that is not its own', () => {
    for (const token of [
      'x',
      Buffer.from('{"index":5,"at":0}').toString('base64url'),
      Buffer.from('{"index":0.5,"at":0}').toString('base64url')
    ])
      expect(() =>
        fetchPage(world(1), [{ resource: machines[0]!.id, metric: 'machine.memory.use' }], 0, 1, 2, everyone, token)
      ).to.throw(RangeError, 'not a page token');
  });
});

import { expect } from 'chai';
import fc from 'fast-check';
import { meaningOf, readExposition } from '../../src/lib/core/openmetrics';
import { silentGateway } from '../world/troubles';
import { families, linesOf, stepMs, type MaestroWorld } from './numbers';
import { storedPage, pageAt } from './pages';
import { clusters } from './world';

const hour = 3_600_000;
const start = Date.parse('2026-05-04T01:00:00Z');
const world: MaestroWorld = { seed: 1, start, stresses: [] };
const moment = fc.integer({ min: 0, max: 14 * 24 * 60 }).map((minutes) => start - minutes * 60_000);
const cluster = fc.constantFrom(...clusters);

describe('the pages of Maestro', () => {
  it('are whole OpenMetrics pages, each line of a described family, whatever the cluster and the time', () => {
    fc.assert(
      fc.property(cluster, moment, fc.boolean(), (one, at, workloadLevel) => {
        const { samples, faults, complete } = readExposition(pageAt(world, one, workloadLevel, at));
        expect([faults, complete]).to.deep.equal([[], true]);
        for (const { name, family, at: stamp } of samples) {
          expect(
            families.map((known) => known.name),
            name
          ).to.include(family.name);
          expect(stamp, name).to.equal(null);
        }
        expect(new Set(samples.map(({ name, labels }) => name + JSON.stringify(labels))).size).to.equal(samples.length);
      })
    );
  });

  it('keep the same minutes that were there to be scraped', () => {
    fc.assert(
      fc.property(cluster, moment, fc.integer({ min: 1, max: 12 }), (one, at, minutes) => {
        const to = at + minutes * 60_000;
        const kept = readExposition(storedPage(world, one, true, at, to)).samples;
        for (let minute = at; minute < to; minute += 60_000) {
          const live = readExposition(pageAt(world, one, true, minute)).samples;
          expect(kept.filter((sample) => sample.at === minute).map(({ name, value }) => [name, value])).to.deep.equal(
            live.map(({ name, value }) => [name, value])
          );
        }
      }),
      { numRuns: 20 }
    );
  });

  it('leave workload-level families out until they are switched on', () => {
    const [first] = clusters;
    const names = (workloadLevel: boolean) =>
      new Set(readExposition(pageAt(world, first!, workloadLevel, start)).samples.map(({ family }) => family.name));
    const [without, all] = [names(false), names(true)];
    expect([...without].filter((name) => name.startsWith('workload'))).to.deep.equal([]);
    expect([...all].filter((name) => name.startsWith('workload'))).to.have.length(9);
  });

  it('totals never fall but where a copy begins again, and shares stay shares', () => {
    const [first] = clusters;
    let restarts = 0;
    const last = new Map<string, number>();
    for (let at = start - 30 * hour; at < start; at += 10 * 60_000)
      for (const family of families)
        for (const { labels, value } of linesOf(world, first!, family, at)) {
          const key = family.name + JSON.stringify(labels);
          if (family.type === 'counter' && value < (last.get(key) ?? -Infinity)) restarts++;
          last.set(key, value);
          if (family.unit === 'ratio') expect(value, key).to.be.within(0, 1);
          expect(value, key).to.be.at.least(0);
        }
    expect(restarts, 'seatmap begins again now and then').to.be.within(1, 60);
  });

  it('hold a value for a step, and draw a stressed one to what was asked', () => {
    const [first] = clusters;
    const family = families.find(({ name }) => name === 'host_processor_ratio')!;
    const of = (at: number, stresses: MaestroWorld['stresses'] = []) =>
      linesOf({ ...world, stresses }, first!, family, at)[0]!.value;
    expect(of(start)).to.equal(of(start + stepMs - 1));
    expect(of(start)).not.to.equal(of(start + stepMs));
    const stress = { resource: first!.nodes[0]!, metric: 'all', value: 0.97, from: start, until: start + 60_000 };
    expect(of(start, [stress])).to.equal(0.97);
    expect(of(start + 60_000, [stress])).to.equal(of(start + 60_000));
  });

  it('have the planted troubles: a gateway falls silent, seatmap is started again while its memory rises', () => {
    const silent = silentGateway(start);
    const vessels = clusters.find(({ gateways }) => gateways.includes(silent.name))!;
    const heard = (at: number) =>
      linesOf(
        world,
        vessels,
        families.find(({ name }) => name === 'gateway_heartbeats')!,
        at
      ).map(({ labels }) => labels['gateway']);
    expect(heard(silent.from - stepMs)).to.include(silent.name);
    expect(heard(silent.from)).not.to.include(silent.name);
    const memory = families.find(({ name }) => name === 'workload_memory_bytes')!;
    const copy = Array.from({ length: 180 }, (_, i) => start - (180 - i) * 10 * 60_000).map(
      (at) => linesOf(world, clusters[0]!, memory, at).find(({ labels }) => labels['copy'] === 'seatmap-1')!.value
    );
    const falls = copy.filter((value, i) => i > 0 && value < copy[i - 1]! - 100 * 1_048_576).length;
    expect(falls, 'in thirty hours').to.be.within(2, 5);
    expect(Math.max(...copy)).to.be.below(512 * 1_048_576);
  });

  it('point to a request behind each count of answers', () => {
    const { samples } = readExposition(pageAt(world, clusters[0]!, true, start));
    const counted = samples.filter(
      ({ name, labels }) => name === 'workload_requests_total' && labels['outcome'] === 'ok'
    );
    expect(counted).not.to.deep.equal([]);
    for (const { exemplar } of counted) {
      expect(exemplar?.labels['trace_id']).to.match(/^[0-9a-f]{12,}$/);
      expect(exemplar?.at).to.equal(Math.floor(start / stepMs) * stepMs);
    }
    expect(meaningOf(counted[0]!)?.kind).to.equal('cumulative');
  });
});

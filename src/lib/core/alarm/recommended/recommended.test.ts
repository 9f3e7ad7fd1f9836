import { expect } from 'chai';
import { hour, minute } from '../../time';
import { alarmSchema } from '../schema';
import { recommendedAlarms, type KnownMetric } from './index';

describe('recommended alarms', () => {
  const names = [
    ...['machine.processor.use', 'machine.memory.use', 'machine.filesystem.use', 'database.connections.use'],
    ...['database.storage.use', 'database.replica.lag', 'database.read.latency', 'function.duration'],
    ...['function.failures', 'queue.oldest.age', 'queue.depth', 'cluster_copies_ready', 'workload_restarts'],
    ...['balancer.targets.healthy', 'balancer.response.time', 'object-store.cost', 'cache.hit.share'],
    ...['cache.memory.use', 'pipeline.errors', 'replication.lag', 'replication.disk-free', 'gateway_heartbeats'],
    'gateway.tunnels'
  ];
  const metrics = (samplingMs = minute, everyMs = minute): KnownMetric[] =>
    names.map((name) => ({ name, service: '', samplingMs, everyMs }));

  it('are alarms that can be saved, with keys of their own', () => {
    const all = recommendedAlarms(metrics());
    expect(all.length).to.be.above(20);
    for (const { definition, key } of all) expect(alarmSchema.safeParse(definition).error, key).to.equal(undefined);
    expect(new Set(all.map(({ key }) => key)).size).to.equal(all.length);
    expect(recommendedAlarms(metrics(), 'databases').map(({ definition }) => definition.name)).to.deep.equal([
      'Connections nearly used up',
      'Storage nearly full',
      'Replica falls behind',
      'Reads slow for the hour',
      'Database silent'
    ]);
  });

  it('are of what is collected only', () => {
    expect(recommendedAlarms([])).to.deep.equal([]);
    const [queue] = recommendedAlarms(metrics().filter(({ name }) => name === 'queue.depth'));
    expect(queue?.definition.name).to.equal('Queue deeper than usual');
  });

  it('suit how often samples come', () => {
    const hourly = recommendedAlarms(metrics(hour, hour));
    for (const { definition } of hourly) {
      expect(definition.signal?.step, definition.name).to.equal('PT1H');
      expect(definition.rule.window.of, definition.name).to.be.at.most(4);
    }
    const silent = hourly.find(({ key }) => key === 'machine-silent');
    expect(silent?.definition.rule.levels[0]?.condition).to.deep.equal({ kind: 'absence', for: 'PT3H' });
  });
});

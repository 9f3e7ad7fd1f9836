import { expect } from 'chai';
import { connect, processorAlarm, withHouse } from '../../../../../tests/support/bussola';
import { until } from '../../../../../tests/support/until';
import { plainSignal, signalSchema } from '../../../core/signal';
import { after, day } from '../../../core/time';
import { Catalogue } from '../catalogue/catalogue';
import { saveGroup } from '../groups/save-group';
import { membersOf } from '../groups/members';
import { groupChoices } from '../groups/choices';
import { collectionOf } from '../../intake/ledger/collections';
import { saveSignal } from './save-signal';
import { matchedBy } from './matched';
import { resolveSignal, stockFor } from './resolve';
import { allSignals } from './signals';
import { usesOfValue, usesOfMetric } from '../../boards/signal-uses';

describe('signals, groups and the catalogue over real resources', () => {
  const house = withHouse();
  const processor = plainSignal({ metric: 'machine.processor.use', statistic: 'avg' });

  before(async () => {
    const { id } = await connect(house, 'corallo-prod');
    await until('the first pulls', async () => {
      const { db } = house.bussola;
      return (
        (await collectionOf(db, id, 'machines'))?.lastSuccessAt &&
        (await collectionOf(db, id, 'balancers'))?.lastSuccessAt
      );
    });
  });

  it('a pick tells what it selects, what is left after each condition, and the values there are', async () => {
    const { db } = house.bussola;
    const where = [
      { label: 'class', is: ['5xx'] },
      { label: 'resource', matches: 'web' }
    ];
    const { total, matched, left, labels } = await matchedBy(db, { metric: 'balancer.responses', where });
    expect(total).to.be.above(matched);
    expect(left.at(-1)).to.equal(matched);
    const classes = labels.find(({ name }) => name === 'class');
    expect(classes?.values.map(({ value }) => value)).to.deep.equal(['2xx', '3xx', '4xx', '5xx']);
    expect(
      classes?.values.every(({ count }) => count === matched),
      'counted as the other conditions leave them'
    ).to.equal(true);
    expect(labels[0]?.name, 'its own label first').to.equal('class');
  });

  it('a pattern picks several metrics; one without any series is empty, not unknown', async () => {
    const rows = [{ name: 'a', metric: 'machine.*.use', where: [], statistic: 'avg' }];
    const { series } = await resolveSignal(house.bussola.db, signalSchema.parse({ version: 2, step: 'PT1M', rows }));
    expect([...new Set(series['a']?.map(({ metric }) => metric))].sort()).to.deep.equal([
      'machine.filesystem.use',
      'machine.memory.use',
      'machine.processor.use'
    ]);
  });

  it('signals that are looked up together pick what each picks alone', async () => {
    const { db } = house.bussola;
    const group = { label: 'group', is: ['of nobody'] };
    const signals = [
      plainSignal({ metric: 'machine.processor.use', statistic: 'avg' }),
      plainSignal({ metric: 'machine.*.use', statistic: 'max' }),
      plainSignal({ metric: 'balancer.responses', statistic: 'sum', where: [{ label: 'class', is: ['5xx'] }] }),
      plainSignal({ metric: 'machine.memory.use', statistic: 'avg', where: [group] })
    ];
    const stock = await stockFor(db, signals);
    for (const signal of signals)
      expect(await resolveSignal(db, signal, stock)).to.deep.equal(await resolveSignal(db, signal));
    const ids = stock.series.map(({ id }) => id);
    expect(new Set(ids).size, 'each once, though a name and a pattern ask for it').to.equal(ids.length);
  });

  it('a group gathers by rule, and every pick can be narrowed to it', async () => {
    const { bussola } = house;
    const rule = { match: 'all' as const, conditions: [{ label: 'resource', matches: '^booking-web-' }] };
    const members = await membersOf(bussola.db, rule);
    const kept = await saveGroup(bussola, null, { name: 'booking', rule }, 'test');
    expect(kept).to.have.property('name', 'booking');
    expect(await saveGroup(bussola, null, { name: 'booking', rule }, 'test')).to.equal('taken');
    const where = [{ label: 'group', is: ['booking'] }];
    const { series } = await resolveSignal(
      bussola.db,
      plainSignal({ metric: 'machine.processor.use', statistic: 'avg', where })
    );
    expect(series['a']?.map(({ labels: { resource } }) => resource)).to.deep.equal(
      members.filter(({ type }) => type === 'machine').map(({ name }) => name)
    );
    const named = {
      name: 'of the group',
      signal: plainSignal({ metric: 'machine.memory.use', statistic: 'max', where })
    };
    await saveSignal(bussola, null, named, 'test');
    expect((await usesOfValue(bussola.db, 'group', 'booking')).map(({ name }) => name)).to.deep.equal(['of the group']);
    expect((await groupChoices(bussola.db)).map(({ name }) => name)).to.include.members([
      'resource',
      'region',
      'service'
    ]);
  });

  it('is kept under a name of its own, and only when it can be worked out', async () => {
    const { bussola } = house;
    const first = await saveSignal(bussola, null, { name: 'Processors', signal: processor }, 'test');
    const refused = async (name: string, signal: typeof processor) =>
      saveSignal(bussola, null, { name, signal }, 'test').then(
        () => 'kept',
        (error: Error) => error.message
      );
    expect(await refused('Processors', processor)).to.equal('There is already a signal named Processors.');
    const unknown = plainSignal({ metric: 'nothing.at.all', statistic: 'avg' });
    expect(await refused('Other', unknown)).to.equal('There is no metric named nothing.at.all.');
    const changed = await saveSignal(bussola, first?.id ?? 0, { name: 'Processors, all', signal: processor }, 'test');
    expect(changed?.name).to.equal('Processors, all');
    expect(await saveSignal(bussola, 9999, { name: 'Nobody’s', signal: processor }, 'test')).to.equal(null);
    expect((await allSignals(bussola.db)).map(({ name }) => name)).to.include('Processors, all');
  });

  it('the catalogue says where a metric exists, whether it arrives, and what uses it', async () => {
    const { bussola } = house;
    await processorAlarm(house, 'booking-web-1');
    const found = (await bussola.catalogue.search()).find({ text: 'processor machine' });
    expect(found[0]).to.deep.include({
      name: 'machine.processor.use',
      accounts: ['corallo-prod'],
      state: 'collected',
      service: 'machines'
    });
    expect(found[0]?.series).to.equal(10);
    const responses = (await bussola.catalogue.search()).entries.find(({ name }) => name === 'balancer.responses');
    expect(responses?.labels).to.deep.equal({ class: ['2xx', '3xx', '4xx', '5xx'] });
    const uses = await usesOfMetric(bussola.db, 'machine.processor.use');
    expect(uses.map(({ kind, name }) => `${kind} ${name}`)).to.include.members([
      'alarm Processor nearly exhausted',
      'signal Processors, all'
    ]);
    const later = { now: () => after(house.clock.now(), day) };
    const tomorrow = await new Catalogue({ ...bussola, clock: later }).search();
    expect(tomorrow.find({ text: 'processor machine' })[0]?.state).to.equal('stale');
  });
});

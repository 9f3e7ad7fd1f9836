import { expect } from 'chai';
import { randomUUID } from 'node:crypto';
import { connect, processorAlarm, stressMachine } from '../../../../tests/support/bussola';
import { rule } from '../../../../tests/support/alarm';
import { refusalOf } from '../../../../tests/support/refusal';
import { withActing } from '../../../../tests/support/responses';
import { until } from '../../../../tests/support/until';
import { allResources, type Resource } from '../inventory/resources';
import { abilitiesOf, actNow, foretell } from './act-now';
import { noteRun } from './runs';
import { askAfter } from './send-run';
import type { ActAnswer, Acts } from '../providers/port/acts';
import type { Provider, ProviderAccess } from '../providers/port/provider';

describe('what is done by hand', () => {
  const { house, resourceNamed, byHand, ordersOf, newestOf, newestIs, live, raised } = withActing();
  const server = () => house.bussola;
  const restart = ({ id }: Resource) => ({ resourceId: id, action: { kind: 'restart' }, incidentId: null }) as const;
  const levante = () => house.standIns.levante;

  it('is asked for, foretold, and done once for each key', async () => {
    const desk = await resourceNamed('freight-desk-1');
    expect(await abilitiesOf(server(), desk.id)).to.deep.equal({
      ...{ kinds: ['restart', 'stop', 'start', 'size'], isStopped: false, count: null },
      size: { now: 'medium', choices: ['small', 'medium', 'large', 'huge'] }
    });
    expect(await foretell(server(), restart(desk))).to.deep.equal({
      ...{ says: ['It answers nothing for about a minute.', 'What it holds in memory is lost.'], isDangerous: false }
    });
    expect(ordersOf('freight-desk-1'), 'nothing is done by it').to.deep.equal([]);
    const key = randomUUID();
    expect((await actNow(server(), restart(desk), byHand(key))).state).to.equal('going');
    expect((await refusalOf(actNow(server(), restart(desk), byHand())))?.code).to.equal('changed-meanwhile');
    await newestIs(desk, 'done');
    expect((await actNow(server(), restart(desk), byHand(key))).state, 'what it came to').to.equal('done');
    expect(ordersOf('freight-desk-1')).to.have.length(1);
    const other = { ...restart(desk), action: { kind: 'stop' } } as const;
    expect((await refusalOf(actNow(server(), other, byHand(key))))?.message).to.match(/used for something else/);
  }).timeout(90_000);

  it('is done once where the same order comes several times at once', async () => {
    const worker = await resourceNamed('tariff-worker-2');
    const key = randomUUID();
    const all = await Promise.all([1, 2, 3, 4].map(() => actNow(server(), restart(worker), byHand(key))));
    expect(new Set(all.map(({ id }) => id)).size).to.equal(1);
    expect(ordersOf('tariff-worker-2')).to.have.length(1);
    expect(levante().repeatedActs).to.equal(0);
    await newestIs(worker, 'done');
  }).timeout(90_000);

  it('wants the name where it is dangerous, and is refused with why where it cannot be done', async () => {
    const desk = await resourceNamed('freight-desk-1');
    const stop = { ...restart(desk), action: { kind: 'stop' } } as const;
    expect((await foretell(server(), stop)).isDangerous).to.equal(true);
    for (const confirmed of [null, 'Freight-Desk-1', ''])
      expect((await refusalOf(actNow(server(), stop, byHand(randomUUID(), confirmed))))?.path).to.deep.equal([
        'confirmed'
      ]);
    await actNow(server(), stop, byHand(randomUUID(), desk.name));
    await newestIs(desk, 'done');
    expect((await refusalOf(actNow(server(), restart(desk), byHand())))?.message).to.equal('It is stopped already.');
    await actNow(server(), { ...stop, action: { kind: 'start' } }, byHand());
    await newestIs(desk, 'done');
    const large = { ...stop, action: { kind: 'size', size: 'large' } } as const;
    expect((await foretell(server(), large)).says[0]).to.equal('Its size changes from medium to large.');
    await actNow(server(), large, byHand(randomUUID(), desk.name));
    await newestIs(desk, 'done');
    expect((await abilitiesOf(server(), desk.id)).size?.now).to.equal('large');
    expect((await refusalOf(foretell(server(), large)))?.message).to.equal('Its size is large already.');
    expect((await refusalOf(actNow(server(), { ...large, resourceId: 999_999 }, byHand())))?.code).to.equal(
      'not-found'
    );
    const balancer = await resourceNamed('booking-web', 'balancer');
    expect((await refusalOf(foretell(server(), restart(balancer))))?.message).to.equal(
      'Its provider cannot do this with it.'
    );
  }).timeout(180_000);

  it('sets the count of a group, which its metrics follow; fewer want the name', async () => {
    const group = await resourceNamed('gate-api', 'machine-group');
    const { count } = await abilitiesOf(server(), group.id);
    const more = { ...restart(group), action: { kind: 'count', to: 7 } } as const;
    expect((await foretell(server(), more)).says).to.deep.equal([`There are 7 instead of ${count?.now}.`]);
    await actNow(server(), more, byHand());
    await newestIs(group, 'done');
    expect((await abilitiesOf(server(), group.id)).count?.now).to.equal(7);
    const fewer = { ...more, action: { kind: 'count', to: 6 } } as const;
    expect((await refusalOf(actNow(server(), fewer, byHand())))?.path).to.deep.equal(['confirmed']);
  }).timeout(90_000);

  it('belongs to an incident on the same resource alone', async () => {
    const alarm = await processorAlarm(house, 'gate-api-2', { rule: rule(1, 1) });
    await live(2);
    stressMachine(house, 'gate-api-2', 97, 60);
    await live(3);
    const { id } = await raised(alarm);
    const [gate, desk] = [await resourceNamed('gate-api-2'), await resourceNamed('freight-desk-1')];
    expect((await refusalOf(actNow(server(), { ...restart(desk), incidentId: id }, byHand())))?.code).to.equal(
      'not-found'
    );
    expect((await actNow(server(), { ...restart(gate), incidentId: id }, byHand())).incidentId).to.equal(id);
    await newestIs(gate, 'done');
    await live(4);
    await until('it is seen that it helped', async () => {
      house.clock.pass(0.2);
      return (await newestOf(gate))?.effect === 'cleared';
    });
  }).timeout(180_000);

  it('that its sender knows to be done is done, whatever was thought of it meanwhile, as when the clock jumped', async () => {
    const worker = await resourceNamed('freight-desk-1');
    const run = await actNow(server(), restart(worker), byHand());
    const at = house.clock.now();
    await noteRun(server().db, run.id, { state: 'failed', says: 'Never received.', endedAt: at, dueAt: null });
    const done = { state: 'done', says: '', endedAt: at, dueAt: null } as const;
    await noteRun(server().db, run.id, done);
    expect((await newestOf(worker))?.state, 'not by whoever asks').to.equal('failed');
    await noteRun(server().db, run.id, done, true);
    expect((await newestOf(worker))?.state).to.equal('done');
    await noteRun(server().db, run.id, { ...done, state: 'unknown' }, true);
    expect((await newestOf(worker))?.state, 'what is done stays so').to.equal('done');
  }).timeout(90_000);

  it('is not asked after while it is still being sent, however late that is', async () => {
    const worker = await resourceNamed('freight-desk-1');
    const { levante: usual } = server().providers;
    let answer: ((given: ActAnswer) => void) | null = null;
    const slow = {
      ...server(),
      providers: {
        ...server().providers,
        levante: {
          ...usual,
          acts: (access: ProviderAccess): Acts => ({
            ...(usual?.acts?.(access) as Acts),
            act: () => new Promise<ActAnswer>((answered) => (answer = answered)),
            outcome: () => Promise.resolve(null)
          })
        } as Provider
      }
    };
    const ordered = actNow(slow, restart(worker), byHand());
    const run = await until('it is being sent', async () => {
      const newest = await newestOf(worker);
      return newest?.state === 'sending' ? newest : null;
    });
    const end = await until('its provider has it', () => answer);
    house.clock.pass(10);
    await askAfter(slow, run);
    expect((await newestOf(worker))?.state).to.equal('sending');
    end({ state: 'done', says: '' });
    expect((await ordered).state).to.equal('done');
    // As another process would find it that took it over: nobody here sends it.
    await server().db.rows("update response_runs set state = 'sending', ended_at = null where id = $1", [run.id]);
    await askAfter(slow, run);
    expect((await newestOf(worker))?.says).to.equal('Its provider never received it: nothing was done.');
  }).timeout(90_000);

  it('is asked after where the answer is lost; what its provider never received was not done, and is not sent again', async () => {
    const worker = await resourceNamed('tariff-worker-1');
    levante().actMode = 'losing';
    await actNow(server(), restart(worker), byHand());
    await newestIs(worker, 'done');
    expect(ordersOf('tariff-worker-1')).to.have.length(1);
    levante().actMode = 'lost';
    expect((await actNow(server(), restart(worker), byHand())).state).to.equal('sending');
    expect((await newestIs(worker, 'failed')).says).to.equal('Its provider never received it: nothing was done.');
    expect(ordersOf('tariff-worker-1')).to.have.length(1);
    levante().actMode = 'losing';
    await actNow(server(), restart(worker), byHand());
    levante().faultMode = 'down';
    house.clock.pass(10);
    await until('it is asked', async () => /asked/.test((await newestOf(worker))?.says ?? ''));
    house.clock.pass(10);
    await newestIs(worker, 'unknown');
  }).timeout(180_000);

  it('says that nobody knows, where the provider cannot say what came of it', async () => {
    const fleet = { provider: 'maestro', keyId: 'bussola', secret: 'demo-only-maestro-3f81b6d2' };
    await connect(house, 'fleet-edge', fleet);
    const workload = await until('it is found', async () =>
      (await allResources(server().db)).find(({ name, type }) => name === 'quote' && type === 'workload')
    );
    expect(await abilitiesOf(server(), workload.id)).to.deep.equal({
      ...{ kinds: ['restart', 'count'], isStopped: false, size: null, count: { now: 3, least: 0, most: 10 } }
    });
    const more = { ...restart(workload), action: { kind: 'count', to: 5 } } as const;
    expect((await foretell(server(), more)).says).to.deep.equal(['There are 5 instead of 3.']);
    expect((await actNow(server(), more, byHand())).state).to.equal('done');
    expect((await abilitiesOf(server(), workload.id)).count?.now).to.equal(5);
    const node = (await allResources(server().db)).find(({ type }) => type === 'node');
    expect((await abilitiesOf(server(), node?.id ?? 0)).kinds, 'of a node').to.deep.equal([]);
    house.standIns.maestro.actMode = 'losing';
    const lost = await actNow(server(), restart(workload), byHand());
    expect([lost.state, /The answer is lost\.$/.test(lost.says)]).to.deep.equal(['unknown', true]);
    house.standIns.maestro.actMode = 'failing';
    const failed = await actNow(server(), restart(workload), byHand());
    expect(failed.state, 'a failure of its own says nothing').to.equal('unknown');
  }).timeout(180_000);

  it('is put under a name of ours at Ostro, where its client may; where it may not, it says which right is missing', async () => {
    const keeper = { provider: 'ostro', keyId: 'bussola-keeper', secret: 'demo-only-ostro-9d55aa' };
    const { id } = await connect(house, 'perla-data', keeper);
    const chart = await until('it is found', async () =>
      (await allResources(server().db)).find(({ name, accountId }) => name === 'chart-1' && accountId === id)
    );
    expect((await abilitiesOf(server(), chart.id)).kinds).to.deep.equal(['restart', 'stop', 'start', 'size']);
    expect((await foretell(server(), restart(chart))).says).to.have.length(2);
    house.standIns.ostro.actMode = 'losing';
    await actNow(server(), restart(chart), byHand());
    await newestIs(chart, 'done');
    expect(house.standIns.ostro.acts.map(({ resource }) => resource)).to.deep.equal([chart.providerId]);
    house.standIns.ostro.actMode = 'failing';
    await actNow(server(), restart(chart), byHand());
    expect((await newestIs(chart, 'failed')).says).to.equal('The restart failed: nothing was changed.');
    await connect(house, 'perla-reader', {
      ...{ provider: 'ostro', keyId: 'bussola-reader', secret: 'demo-only-ostro-71c0e2' }
    });
    const read = await until('it is found there', async () =>
      (await allResources(server().db)).find(({ name, account }) => name === 'chart-1' && account === 'perla-reader')
    );
    const refused = await refusalOf(actNow(server(), restart(read), byHand()));
    expect([refused?.code, /operations\.run/.test(refused?.message ?? '')]).to.deep.equal(['permission', true]);
  }).timeout(180_000);
});

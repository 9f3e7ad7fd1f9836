import { expect } from 'chai';
import { grecaleKey } from '../../../../stand-ins/grecale/grecale';
import { connect, withHouse } from '../../../../tests/support/bussola';
import { shippedConnector } from '../../../../tests/support/connectors';
import { refusalOf } from '../../../../tests/support/refusal';
import { until } from '../../../../tests/support/until';
import { accountFormSchema } from '../../core/forms/forms';
import { allCollections } from '../intake/ledger/collections';
import { connectAccount } from '../intake/pull/connect';
import { allResources } from '../inventory/resources';
import { resting, restore } from '../removals/resting';
import {
  addConnector,
  changeConnector,
  recordTry,
  removeConnector,
  requireConnector,
  testText,
  tryText,
  type TryOrder
} from './manage-connectors';
import { insertConnector, listConnectors } from './stored-connectors';
import { knownProviders } from './known-connectors';

describe('connectors that people write', () => {
  const house = withHouse();
  const text = shippedConnector('grecale');
  const access = () => ({
    ...{ endpoint: `${house.standIns.url}/grecale`, keyId: grecaleKey.name, secret: grecaleKey.secret }
  });
  const order = (part: TryOrder['part'], more: Partial<TryOrder> = {}): TryOrder => ({
    ...{ text, access: access(), part, inputs: {} },
    ...more
  });
  let id: number;

  it('are saved once they can be read, with every fault at its line', async () => {
    const { bussola } = house;
    const broken = text.replace('by: metric', 'by: guess').replace('each: notes', 'each: "notes["');
    const refusal = await refusalOf(addConnector(bussola, broken, 'Kaja'));
    expect(refusal?.code).to.equal('invalid');
    expect(refusal?.problems?.map(({ path, line }) => [path, line])).to.deep.equal([
      ['points.by', text.split('\n').findIndex((row) => row.includes('by: metric')) + 1]
    ]);
    const unreadable = text.replace('each: notes', 'each: "notes["');
    const expression = await refusalOf(addConnector(bussola, unreadable, 'Kaja'));
    expect(expression?.problems?.map(({ path, line }) => [path, line])).to.deep.equal([
      ['events.each', text.split('\n').findIndex((row) => row.includes('each: notes')) + 1]
    ]);
    id = await addConnector(bussola, text, 'Kaja');
    expect((await refusalOf(addConnector(bussola, text, 'Kaja')))?.code).to.equal('name-taken');
    const another = text.replace('key: grecale', 'key: levante');
    expect((await refusalOf(addConnector(bussola, another, 'Kaja')))?.code).to.equal('name-taken');
  });

  it('are tried part by part: each request with its answer, and what it is mapped to; nothing is stored', async () => {
    const { bussola } = house;
    const counts: Record<string, [requests: number, items: number]> = {
      ...{ resources: [2, 5], metrics: [1, 4], points: [5, 2], events: [3, 45], lines: [2, 66], bills: [3, 15] }
    };
    for (const [part, [requests, items]] of Object.entries(counts)) {
      const { tried } = await tryText(bussola, order(part as TryOrder['part']));
      expect(tried.problem, part).to.equal(null);
      expect([tried.exchanges.length, tried.items?.length], part).to.deep.equal([requests, items]);
      expect(JSON.stringify(tried), part).to.not.include(grecaleKey.secret);
      expect(tried.exchanges[0]?.signs).to.include('x-grecale-seal');
    }
    for (const part of ['points', 'lines'] as const) {
      const { tried } = await tryText(bussola, order(part, { inputs: { resource: 'b-99' } }));
      expect(tried.problem?.message, part).to.include('b-99');
    }
    const failing = order('resources', { text: text.replace('"name": label', '"name": lable') });
    const { tried } = await tryText(bussola, failing);
    expect(tried.items).to.equal(null);
    expect(tried.problem?.message).to.include('number 1 does not fit, name');
    expect(tried.exchanges, 'what was answered is shown all the same').to.have.length(1);
  });

  it('are tested on what was recorded, without the provider', async () => {
    const { bussola } = house;
    for (const part of ['resources', 'points', 'events', 'lines', 'bills'] as const)
      await recordTry(bussola, id, { ...order(part), name: `usual ${part}` }, 'Kaja');
    house.clock.pass(600);
    const passed = await testText(bussola, id, text);
    expect(passed.map(({ name, passed, says }) => [name, passed, says])).to.deep.equal(
      ['bills', 'events', 'lines', 'points', 'resources'].map((part) => [`usual ${part}`, true, null])
    );
    const renamed = await testText(bussola, id, text.replace('"region": quay', '"region": $uppercase(quay)'));
    expect(renamed.filter(({ passed }) => !passed)).to.have.length(1);
    expect(renamed.at(-1)?.says).to.equal('0.region: "perla" was recorded, now it is "PERLA".');
    const asking = await testText(bussola, id, text.replace('path: /fleet', 'path: /fleets'));
    expect(asking.at(-1)?.says).to.include('The recording has no answer to GET /grecale/fleets');
    const [stored] = await bussola.db.rows<{ all: string }>(
      'select string_agg(recording::text, chr(10)) as all from connector_recordings'
    );
    expect(stored?.all).to.not.include(grecaleKey.secret);
  });

  it('are what accounts are read by: resources, samples and a changed text', async () => {
    const { bussola, clock } = house;
    const form = accountFormSchema.parse({ ...access(), name: 'quays', provider: 'grecale' });
    const account = await connectAccount(bussola, form, 0, 'Kaja');
    await until('the first pull', async () => {
      const collections = (await allCollections(bussola.db)).filter(({ accountId }) => accountId === account.id);
      return (
        collections.length === 2 &&
        collections.every(({ lastPullAt, lastError }) => lastPullAt !== null && lastError === null)
      );
    });
    const named = async () =>
      (await allResources(bussola.db))
        .filter(({ accountId }) => accountId === account.id)
        .map(({ name, tags }) => `${name} ${tags['team']}`);
    expect(await named()).to.include('pallet-moves data');
    const { version } = await requireConnector(bussola, id);
    const changed = text.replace('"name": label', '"name": "quay " & label');
    await changeConnector(bussola, id, { text: changed, version }, 'Nerea');
    expect((await refusalOf(changeConnector(bussola, id, { text, version }, 'Kaja')))?.code).to.equal(
      'changed-meanwhile'
    );
    clock.pass(61);
    await until('another listing', async () => (await named()).includes('quay pallet-moves data'));
    expect((await listConnectors(bussola.db))[0]).to.include({ key: 'grecale', accounts: 1, recordings: 5 });
  });

  it('never get the secret of another provider’s account', async () => {
    const { bussola } = house;
    const levante = await connect(house, 'other');
    for (const key of ['grecale', 'levante']) {
      const posing = text.replace('key: grecale', `key: ${key}`);
      const tried = tryText(bussola, order('resources', { text: posing, access: { accountId: levante.id } }));
      expect((await refusalOf(tried))?.code, key).to.equal('invalid');
    }
    for (const key of ['pages', 'pushed', 'bussola', 'levante'])
      expect(
        (await refusalOf(addConnector(bussola, text.replace('key: grecale', `key: ${key}`), 'Kaja')))?.code,
        key
      ).to.equal('name-taken');
  });

  it('stay while accounts are read by them, rest when they are removed, and are there again at a start', async () => {
    const { bussola } = house;
    expect((await refusalOf(removeConnector(bussola, id)))?.code).to.equal('in-use');
    const second = await addConnector(bussola, text.replace('key: grecale', 'key: other-quays'), 'Kaja');
    expect(Object.keys(bussola.providers)).to.include('other-quays');
    await resting(bussola, { kind: 'connectors', id: second, by: 'Kaja' }, (inner) => removeConnector(inner, second));
    await until('it to be gone', () => !Object.hasOwn(bussola.providers, 'other-quays'));
    const [removal] = await bussola.db.rows<{ id: number }>(`select id from removals where kind = 'connectors'`);
    await restore(bussola, removal?.id ?? 0, { id: 1, role: 'administrator' });
    await until('it to be back', () => Object.hasOwn(bussola.providers, 'other-quays'));
    const { pool } = bussola.connectors;
    const another = await knownProviders({ ...bussola, pool }, {});
    expect(Object.keys(another.providers).sort()).to.deep.equal(['grecale', 'other-quays']);
    await another.stop();
    // Another process, of which this one is not told.
    const elsewhere = text.replace('key: grecale', 'key: elsewhere');
    const by = { changedAt: house.clock.now(), changedBy: 'Nerea' };
    await insertConnector(bussola.db, { key: 'elsewhere', name: 'Elsewhere', text: elsewhere, ...by });
    await until('it to be known', () => Object.hasOwn(bussola.providers, 'elsewhere'), 20_000);
  });
});

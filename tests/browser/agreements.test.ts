import { expect } from 'chai';
import { programOf, type Call } from '../support/program';
import { signalOf, withVisit } from '../support/visit';

const level = { severity: 'minor', percent: 100 };
const budget = {
  ...{ name: 'Quay', amount: 100, currency: 'EUR', period: { kind: 'month' }, on: 'actual', levels: [level] }
};
const promise = {
  ...{ name: 'Quick quay', targetPercent: 99, period: { kind: 'rolling', days: 7 }, route: null, levels: [] },
  of: { kind: 'time', signal: signalOf('machine.processor.use'), is: 'below', limit: 95 }
};
const plan = { name: 'Quay week', kind: 'week', at: '08:00', zone: 'Europe/Rome', channels: [1] };
/** Definitions that people and programs make, the field under which a whole one is changed, and what is wrong with some. */
const definitions = [
  {
    ...{ path: '/budgets', field: 'budget', value: budget },
    wrong: [
      [{ ...budget, amount: -1 }, 'amount'],
      [{ ...budget, currency: 'EURO' }, 'currency'],
      [{ ...budget, extra: 1 }, '']
    ]
  },
  {
    ...{ path: '/objectives', field: 'objective', value: promise },
    wrong: [
      [{ ...promise, targetPercent: 100 }, 'targetPercent'],
      [{ ...promise, name: '' }, 'name']
    ]
  },
  {
    ...{ path: '/summary-plans', field: 'plan', value: plan },
    wrong: [
      [{ ...plan, at: '25:00' }, 'at'],
      [{ ...plan, zone: 'Europe/Nowhere' }, 'zone'],
      [{ ...plan, channels: [4711] }, 'channels']
    ]
  }
] as const;

describe('budgets, promises and summaries, as programs make them', () => {
  const visit = withVisit({ minutes: 2, who: 'nerea' });
  let nerea: Call;
  let oda: Call;
  before(async () => {
    [nerea, oda] = [await programOf(visit.app, 'nerea'), await programOf(visit.app, 'oda')];
  });

  for (const { path, field, value, wrong } of definitions) {
    it(`${path}: made, read, changed in its version, and removed`, async () => {
      const made = await nerea('POST', path, value);
      expect(made.status, JSON.stringify(made.body)).to.equal(201);
      const { id, version } = made.body as { id: number; version: number };
      expect(version).to.equal(1);
      const listed = async () =>
        (
          Object.values((await oda('GET', path)).body as unknown as object)[0] as { id: number; version: number }[]
        ).find((one) => one.id === id);
      expect((await listed())?.version).to.equal(1);
      const changed = { ...value, name: `${value.name} 2` };
      const saved = await nerea('PUT', `${path}/${id}`, { [field]: changed, version });
      expect(saved.status, JSON.stringify(saved.body)).to.equal(200);
      expect((await listed())?.version).to.equal(2);
      // Somebody who saw the one before does not overwrite it.
      const late = await nerea('PUT', `${path}/${id}`, { [field]: value, version });
      expect(late.status).to.equal(409);
      expect((late.body as unknown as { remedy: string }).remedy).not.to.equal('');
      expect(JSON.stringify(await listed())).to.contain(`${value.name} 2`);
      expect((await nerea('DELETE', `${path}/${id}`)).status).to.equal(204);
      expect(await listed()).to.equal(undefined);
      expect((await nerea('DELETE', `${path}/${id}`)).status).to.equal(404);
      expect((await nerea('PUT', `${path}/${id}`, { [field]: value, version: 2 })).status).to.equal(404);
    });

    it(`${path}: what is wrong is named with its place, and nothing is made`, async () => {
      const before = JSON.stringify((await nerea('GET', path)).body);
      for (const [body, place] of wrong) {
        const refused = await nerea('POST', path, body);
        expect(refused.status, JSON.stringify(body)).to.be.oneOf([400, 422]);
        const { problems = [], path: of = [] } = refused.body as unknown as {
          problems?: { path: string }[];
          path?: readonly (string | number)[];
        };
        const places = [...problems.map((one) => one.path), of.join('.')].join(' ');
        expect(places, JSON.stringify(refused.body)).to.contain(place);
      }
      for (const body of [null, [], 'text', { [field]: value }])
        expect((await nerea('POST', path, JSON.stringify(body))).status).to.be.oneOf([400, 415, 422]);
      expect((await nerea('POST', path, '{')).status).to.equal(400);
      expect(JSON.stringify((await nerea('GET', path)).body)).to.equal(before);
    });

    it(`${path}: whoever may only look reads them, and changes nothing`, async () => {
      expect((await oda('GET', path)).status).to.equal(200);
      expect((await oda('POST', path, value)).status).to.equal(403);
      expect((await oda('DELETE', `${path}/1`)).status).to.equal(403);
      const nobody = await programOf(visit.app, null);
      for (const method of ['GET', 'POST'])
        expect((await nobody(method, path, method === 'GET' ? undefined : value)).status).to.equal(401);
    });
  }

  it('a summary is of a time that there is, in a zone that there is', async () => {
    for (const wrong of [
      'of=1960-01-01',
      'of=9999-12-31',
      'of=2026-02-30',
      'zone=Nowhere',
      'kind=year',
      'as=doc',
      'x=1'
    ]) {
      const refused = await nerea('GET', `/summary?${wrong}`);
      expect(refused.status, wrong).to.equal(400);
      expect((refused.body as unknown as { remedy: string }).remedy, wrong).not.to.equal('');
    }
    for (const fine of ['of=2000-01-01', 'of=2026-05-04&kind=month', 'zone=Pacific/Apia'])
      expect((await nerea('GET', `/summary?${fine}`)).status, fine).to.equal(200);
    expect((await nerea('GET', '/summaries/4711')).status).to.equal(404);
    expect((await nerea('GET', '/read/nothing')).status).to.equal(404);
  });

  it('go out as a file, and in again on its page: what would change is said before', async () => {
    const { app, page } = visit;
    expect((await nerea('POST', '/budgets', budget)).status).to.equal(201);
    const text = (await nerea('GET', '/agreements/file?format=yaml')).body as unknown as string;
    expect(text.split('\n')[0]).to.equal('kind: agreements');
    const same = (await nerea('POST', '/agreements/plan', { text })).body as unknown as {
      things: { name: string; differences: string[] }[];
    };
    expect(same.things.flatMap(({ differences }) => differences)).to.deep.equal([]);
    const dearer = text.replace('amount: 100', 'amount: 250');
    await page.goto(`${app.origin}/objectives/files`);
    await page.getByRole('textbox').first().fill(dearer);
    await visit.button('See what would change').click();
    await page.getByText('amount: 100 → 250').waitFor();
    await visit.button('Apply it').click();
    await page.getByText('Applied: 1 thing stored.').waitFor();
    const budgets = (await nerea('GET', '/budgets')).body as unknown as { budgets: unknown[] };
    expect(JSON.stringify(budgets)).to.contain('250');
    expect((await oda('POST', '/agreements/apply', { text })).status).to.equal(403);
    const broken = await nerea('POST', '/agreements/plan', { text: 'kind: agreements\nversion: 1\nbudgets: 4\n' });
    expect(broken.status).to.be.oneOf([400, 422]);
    expect(JSON.stringify(broken.body)).to.contain('budgets');
    expect(visit.complaints).to.deep.equal([]);
  });
});

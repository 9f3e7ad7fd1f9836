import { expect } from 'chai';
import { plainDetails, rule, threshold } from '../support/alarm';
import { programOf, type Call } from '../support/program';
import { until } from '../support/until';
import { linesPanel, signalOf, withVisit } from '../support/visit';

/** Something of each kind that rests when it is removed, as a program makes it. */
const made: readonly { readonly kind: string; readonly body: object; readonly read?: string }[] = [
  { kind: 'boards', body: { title: 'Quay', pickers: [], sections: [], panels: [linesPanel('a', 0, 0)] } },
  { kind: 'folders', body: { name: 'Quays' } },
  { kind: 'channels', body: { name: 'Quay mail', address: 'quay@example.test' } },
  {
    ...{ kind: 'marks', body: { text: 'Quay closed', from: '2026-05-04T10:00:00Z' } },
    read: '/marks?from=2026-05-04T00:00:00Z&to=2026-05-05T00:00:00Z'
  },
  {
    kind: 'summary-plans',
    body: { name: 'Quay week', kind: 'week', at: '08:00', zone: 'UTC', channels: [1] }
  },
  {
    kind: 'budgets',
    body: {
      ...{ name: 'Quay money', amount: 100, currency: 'EUR', period: { kind: 'month' }, on: 'actual' },
      levels: [{ severity: 'minor', percent: 100 }]
    }
  }
];

describe('removing and restoring by a program', () => {
  const visit = withVisit({ minutes: 1, who: 'kaja' });
  let kaja: Call;
  let nerea: Call;
  before(async () => {
    [kaja, nerea] = [await programOf(visit.app, 'kaja'), await programOf(visit.app, 'nerea')];
  });
  const removals = async (call: Call) =>
    (await call('GET', '/removals')).body as unknown as { removals: { id: number; kind: string; name: string }[] };

  for (const { kind, body, read } of made)
    it(`${kind}: it goes, is listed with its name, and is back as it was`, async () => {
      const answer = await kaja('POST', `/${kind}`, body);
      expect(answer.status, JSON.stringify(answer.body)).to.equal(201);
      const { id } = answer.body as { id: number };
      const all = async () => JSON.stringify((await kaja('GET', read ?? `/${kind}`)).body);
      // A channel's confirmation leaves by itself, and is noted on it.
      if (kind === 'channels')
        await until(
          'it is asked to confirm',
          async () =>
            !(await all()).includes(`"confirmSentAt":null,"confirmedAt":null,"createdAt":${visit.app.clock.now()}`)
        );
      const before = await all();
      expect((await kaja('DELETE', `/${kind}/${id}`)).status).to.equal(204);
      expect(await all()).to.not.equal(before);
      const [newest] = (await removals(kaja)).removals;
      expect(newest?.kind).to.equal(kind);
      expect(newest?.name).to.match(/^Quay/);
      expect((await kaja('POST', `/removals/${newest?.id}/restore`)).status).to.equal(200);
      expect(await all()).to.equal(before);
      expect((await kaja('POST', `/removals/${newest?.id}/restore`)).status, 'once').to.equal(404);
    });

  it('an alarm is back, watches again, and its incidents are still there', async () => {
    const { app } = visit;
    const alarm = {
      name: 'Quay processors',
      signal: signalOf('machine.processor.use'),
      rule: rule(1, 1, { levels: [threshold('above', 1, 'minor')] }),
      ...plainDetails
    };
    const answer = await kaja('POST', '/alarms', { ...alarm, route: null });
    expect(answer.status, JSON.stringify(answer.body)).to.equal(201);
    const { id } = answer.body as { id: number };
    expect((await kaja('DELETE', `/alarms/${id}`)).status).to.equal(204);
    const [newest] = (await removals(nerea)).removals;
    expect(newest).to.include({ kind: 'alarms', name: 'Quay processors' });
    // An editor may restore what an administrator removed: editors may remove it.
    expect((await nerea('POST', `/removals/${newest?.id}/restore`)).status).to.equal(200);
    expect(await app.db.rows('select 1 from alarms where id = $1 and removed_at is null', [id])).to.have.length(1);
  });

  it('is refused to whoever may not remove it, and of a private board nobody else learns', async () => {
    const oda = await programOf(visit.app, 'oda');
    const ivo = await programOf(visit.app, 'ivo');
    const board = { title: 'Secret quay', pickers: [], sections: [], panels: [linesPanel('a', 0, 0)] };
    const { id } = (await nerea('POST', '/boards', board)).body as { id: number };
    const sharing = { reach: 'private', everyone: 'edit', named: [] };
    expect((await nerea('PUT', `/boards/${id}/sharing`, sharing)).status).to.equal(200);
    expect((await nerea('DELETE', `/boards/${id}`)).status).to.equal(204);
    for (const other of [ivo, oda])
      expect((await removals(other)).removals.map(({ name }) => name)).not.to.include('Secret quay');
    const own = (await removals(nerea)).removals.find(({ name }) => name === 'Secret quay');
    expect((await ivo('POST', `/removals/${own?.id}/restore`)).status).to.equal(404);
    expect((await nerea('POST', `/removals/${own?.id}/restore`)).status).to.equal(200);
    const [channel] = (await removals(kaja)).removals.filter(({ kind }) => kind === 'channels');
    expect(channel, 'it was restored').to.equal(undefined);
    const lost = (await kaja('POST', '/channels', { name: 'Quay lost', address: 'lost@example.test' })).body as {
      id: number;
    };
    await kaja('DELETE', `/channels/${lost.id}`);
    const resting = (await removals(oda)).removals.find(({ name }) => name === 'Quay lost');
    expect((await oda('POST', `/removals/${resting?.id}/restore`)).status).to.equal(403);
    expect(visit.complaints).to.deep.equal([]);
  });
});

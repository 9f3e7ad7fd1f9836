import { expect } from 'chai';
import { startApp, type RunningApp } from '../support/app';
import { programOf, type Call } from '../support/program';

interface Act {
  readonly by: string;
  readonly act: string;
  readonly what: string;
  readonly outcome: string;
}

describe('what is written down of programs that call', () => {
  let app: RunningApp;
  let kaja: Call;
  const acts = async (query = ''): Promise<Act[]> =>
    ((await kaja('GET', `/acts${query}`)).body as { acts: Act[] }).acts;

  before(async function () {
    this.timeout(180_000);
    app = await startApp();
    kaja = await programOf(app, 'kaja');
  });
  after(async function () {
    this.timeout(90_000);
    await app.stop();
  });

  it('what a role does not allow, with who tried it; what is only read is not', async () => {
    const oda = await programOf(app, 'oda');
    expect((await oda('GET', '/boards')).status).to.equal(200);
    expect((await oda('POST', '/people', {})).status).to.equal(403);
    const refused = await acts('?outcome=refused');
    expect(refused[0]).to.include({ by: 'Oda Lind', act: 'POST /people', outcome: 'refused' });
    expect((await acts()).some(({ act }) => act === 'GET /boards')).to.equal(false);
  });

  it('what a thing itself refuses, such as somebody else’s board', async () => {
    const nerea = await programOf(app, 'nerea');
    const board = { title: 'Of Nerea', pickers: [], sections: [], panels: [] };
    const { body } = await nerea('POST', '/boards', board);
    const { id } = body as { id: number };
    const sharing = { reach: 'private', everyone: 'view', named: [{ role: 'editor', may: 'view' }] };
    expect((await nerea('PUT', `/boards/${id}/sharing`, sharing)).status).to.equal(200);
    const ivo = await programOf(app, 'ivo');
    expect((await ivo('DELETE', `/boards/${id}`)).status, 'it is shown to him, and no more').to.equal(403);
    const [last] = await acts('?outcome=refused');
    expect(last).to.include({ by: 'Ivo Brandt', act: 'DELETE /boards/{id}' });
  });

  it('whoever is not signed in fills no list by calling; who tries a password is named', async () => {
    const nobody = await programOf(app, null);
    const before = (await acts('?limit=5000')).filter(({ act }) => act !== 'GET /acts').length;
    for (let i = 0; i < 20; i++) expect((await nobody('POST', '/boards', {})).status).to.equal(401);
    expect((await acts('?limit=5000')).filter(({ act }) => act !== 'GET /acts')).to.have.length(before);
    await fetch(`${app.origin}/sign-in`, {
      ...{ method: 'POST', headers: { origin: app.origin }, redirect: 'manual' },
      body: new URLSearchParams({ name: 'kaja', password: 'a guess' })
    });
    expect((await acts('?outcome=refused'))[0]).to.include({ by: 'kaja', what: 'Signs in' });
  });

  it('reading it is written down as well, and nobody but administrators does', async () => {
    const nerea = await programOf(app, 'nerea');
    expect((await nerea('GET', '/acts')).status).to.equal(403);
    const [mine] = (await acts()).filter(({ act, outcome }) => act === 'GET /acts' && outcome === 'done');
    expect(mine?.by).to.equal('Kaja Tamm');
    const changed = await app.db
      .rows('update acts set by = $1 returning id', ['somebody else'])
      .catch((error: unknown) => error);
    expect(changed, 'the database refuses').to.be.instanceOf(Error);
  });
});

import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { sealing } from '../../../../tests/support/sealing';
import { issuerClient } from '../../../../stand-ins/issuer/client';
import { startIssuer, type Issuer as StandIn } from '../../../../stand-ins/issuer/issuer';
import { instant } from '../../core/time';
import { isRefused } from '../../core/problem/problem';
import { insertPerson, setDisabled } from '../people/people';
import { Issuer, leavingFrom, type Leaving } from './issuer';

const origin = 'http://localhost:4300';

describe('signing in by another service', () => {
  const fixture = withDatabase();
  let standIn: StandIn;
  let issuer: Issuer;

  before(async () => {
    standIn = await startIssuer(0);
    issuer = new Issuer({ ...config(), url: standIn.url }, origin);
    for (const [name, mail] of [
      ['nerea', 'nerea.olmo@example.test'],
      ['ivo', 'IVO.Brandt@example.test'],
      ['oda', 'oda.lind@example.test']
    ] as const)
      await insertPerson(fixture.db, {
        ...{ name, displayName: `The ${name}`, role: 'editor', zone: 'UTC', mail },
        ...{ passwordHash: null, createdAt: instant(1_777_881_600_000) }
      });
  });
  after(() => standIn.close());

  const config = () => ({
    url: '',
    clientId: issuerClient.id,
    clientSecret: issuerClient.secret,
    name: 'Corallo sign-on'
  });

  /** Walks through the issuer as a browser does, cookies and all. @returns where it sends people back to */
  async function walk(url: string, who: string): Promise<URL> {
    const cookies = new Map<string, string>();
    let at = url;
    for (let steps = 0; steps < 12; steps++) {
      const response = await fetch(at, {
        redirect: 'manual',
        headers: { cookie: [...cookies].map(([name, value]) => `${name}=${value}`).join('; ') }
      });
      for (const line of response.headers.getSetCookie()) {
        const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(line) ?? [];
        cookies.set(name, value);
      }
      const to = response.headers.get('location');
      if (to === null) {
        const page = await response.text();
        const link = [...page.matchAll(/<a href="([^"]+)"[^>]*>([^<]*)/g)].find(([, , text]) => text?.includes(who));
        if (!link?.[1]) throw new Error(`nobody is called ${who}: ${page.slice(0, 300)}`);
        at = new URL(link[1], at).href;
      } else if (to.startsWith(origin)) return new URL(to);
      else at = new URL(to, at).href;
    }
    throw new Error('the issuer leads nowhere');
  }
  const arrival = async (who: string) => {
    const { url, leaving } = await issuer.leave('/boards/3');
    return { leaving, back: await walk(url, who) };
  };
  const refused = (back: URL, leaving: Leaving) =>
    issuer.arrive(fixture.db, back, leaving).then(
      ({ name }) => `signed in as ${name}`,
      (error: unknown) => {
        if (isRefused(error, 'not-allowed')) return error.message;
        throw error;
      }
    );

  it('whoever has a verified address there is that person here, by their subject from then on', async () => {
    const first = await arrival('Nerea Olmo');
    expect((await issuer.arrive(fixture.db, first.back, first.leaving)).name).to.equal('nerea');
    await fixture.db.rows(`update people set mail = 'other@example.test' where name = 'nerea'`);
    const again = await arrival('Nerea Olmo');
    expect((await issuer.arrive(fixture.db, again.back, again.leaving)).name).to.equal('nerea');
    const other = await arrival('Ivo Brandt');
    expect((await issuer.arrive(fixture.db, other.back, other.leaving)).name, 'in any letter case').to.equal('ivo');
  });

  it('an address that was not verified there, and one that nobody has here, sign nobody in', async () => {
    const unverified = await arrival('Oda Lind');
    expect(await refused(unverified.back, unverified.leaving)).to.equal(
      'Nobody here has your address: it was not confirmed there.'
    );
    const stranger = await arrival('Tove Falk');
    expect(await refused(stranger.back, stranger.leaving)).to.equal(
      'Nobody here has the address tove.falk@example.test.'
    );
  });

  it('an answer with another state, for another nonce, without the verifier, or used already is refused', async () => {
    const no = 'Corallo sign-on did not sign you in.';
    const state = await arrival('Nerea Olmo');
    const forged = new URL(state.back);
    forged.searchParams.set('state', 'made-up');
    expect(await refused(forged, state.leaving), 'another state').to.equal(no);
    expect(await refused(state.back, { ...state.leaving, nonce: 'another' }), 'another nonce').to.equal(no);
    const stolen = await arrival('Nerea Olmo');
    const verifier = 'x'.repeat(stolen.leaving.verifier.length);
    expect(await refused(stolen.back, { ...stolen.leaving, verifier }), 'a code without its verifier').to.equal(no);
    const used = await arrival('Nerea Olmo');
    expect(await refused(used.back, used.leaving)).to.equal('signed in as nerea');
    expect(await refused(used.back, used.leaving), 'the code again').to.equal(no);
    const other = await arrival('Ivo Brandt');
    expect(await refused(other.back, used.leaving), 'the answer to somebody else’s question').to.equal(no);
  });

  it('who is disabled here is nobody, whatever the issuer says', async () => {
    const [ivo] = await fixture.db.rows<{ id: number }>(`select id from people where name = 'ivo'`);
    await setDisabled(fixture.db, ivo!.id, instant(1));
    const { back, leaving } = await arrival('Ivo Brandt');
    expect(await refused(back, leaving)).to.equal('Nobody here has the address ivo.brandt@example.test.');
  });

  it('one that does not answer is said to be away, and asked again the next time', async () => {
    const gone = new Issuer({ ...config(), url: 'http://127.0.0.1:9' }, origin);
    for (let i = 0; i < 2; i++)
      expect(await gone.leave('/').catch((error: unknown) => error)).to.include({
        code: 'unreachable',
        message: 'Corallo sign-on does not answer.'
      });
  });

  it('what was remembered is read of its own cookie alone', async () => {
    const { leaving } = await issuer.leave('/boards/3');
    const cookie = sealing.seal(JSON.stringify(leaving)).toString('base64url');
    expect(leavingFrom(sealing, cookie)).to.deep.equal(leaving);
    const changed = Buffer.from(cookie, 'base64url');
    changed[changed.length - 1]! ^= 1;
    for (const none of [undefined, '', 'x', changed.toString('base64url'), 'A'.repeat(5000)])
      expect(leavingFrom(sealing, none)).to.equal(null);
    expect(leavingFrom(sealing, sealing.seal('{"state":1}').toString('base64url'))).to.equal(null);
  });
});

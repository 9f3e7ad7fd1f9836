import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { after as later, day, instant, times } from '../../core/time';
import { hashPassword, passwordMatches } from './passwords';
import { insertPerson } from './people';
import { endSession, forgetSessions, sessionOf } from './sessions';
import { addressWithin } from '../http/address-within';
import { clientAddresses } from '../http/client-address';
import { signInService, waitAfter } from './sign-in';

describe('passwords', () => {
  it('match their own hash only, and no two hashes are alike', async () => {
    const [one, two] = await Promise.all([hashPassword('anchor up'), hashPassword('anchor up')]);
    expect(one).to.match(/^scrypt\$32768\$8\$1\$/);
    expect(one).not.to.equal(two);
    expect(await passwordMatches('anchor up', one)).to.equal(true);
    expect(await passwordMatches('anchor down', one)).to.equal(false);
    expect(await passwordMatches('e\u0301', await hashPassword('\u00e9'))).to.equal(true); // the same letter, typed on another keyboard
  });

  it('a hash that is none of ours is refused, not taken as wrong', async () => {
    const error = await passwordMatches('x', 'plain').catch((refused: unknown) => refused);
    expect(error).to.be.instanceOf(RangeError);
  });
});

describe('signing in', () => {
  const fixture = withDatabase();
  const now = instant(1_777_881_600_000);
  const from = (address: string) => ({ address, agent: 'a browser' });

  before(async () => {
    await insertPerson(fixture.db, {
      name: 'nerea',
      displayName: 'Nerea Olmo',
      role: 'editor',
      zone: 'UTC',
      passwordHash: await hashPassword('right'),
      createdAt: now
    });
  });

  it('begins a session that lasts a week and can be ended', async () => {
    const result = await signInService().withPassword(fixture.db, 'nerea', 'right', from('192.0.2.7'), now);
    if (result.kind !== 'signed in') throw new Error(result.kind);
    expect(result.person).to.deep.equal({
      id: 1,
      name: 'nerea',
      displayName: 'Nerea Olmo',
      role: 'editor',
      zone: 'UTC',
      dateLocale: 'en'
    });
    expect((await sessionOf(fixture.db, result.token, later(now, times(6, day))))?.person.name).to.equal('nerea');
    expect(await sessionOf(fixture.db, result.token, later(now, times(7, day)))).to.equal(null);
    const [row] = await fixture.db.rows<{ text: string }>(`select encode(token_hash, 'hex') as text from sessions`);
    expect(row?.text).not.to.contain(Buffer.from(result.token).toString('hex'));
    await endSession(fixture.db, result.token);
    expect(await sessionOf(fixture.db, result.token, now)).to.equal(null);
  });

  it('forgets sessions that have run out', async () => {
    const result = await signInService().withPassword(fixture.db, 'nerea', 'right', from('192.0.2.7'), now);
    expect(result.kind).to.equal('signed in');
    await forgetSessions(fixture.db, later(now, times(8, day)));
    expect(await fixture.db.rows('select 1 from sessions')).to.deep.equal([]);
  });

  it('an unknown name and a wrong password look alike', async () => {
    const signIn = signInService();
    expect(await signIn.withPassword(fixture.db, 'nobody', 'right', from('192.0.2.8'), now)).to.deep.equal({
      kind: 'wrong'
    });
    expect(await signIn.withPassword(fixture.db, 'nerea', 'wrong', from('192.0.2.8'), now)).to.deep.equal({
      kind: 'wrong'
    });
    expect(await signIn.withPassword(fixture.db, "nerea' or 1=1 --", 'wrong', from('192.0.2.8'), now)).to.deep.equal({
      kind: 'wrong'
    });
  });

  it('after eight wrong tries even the right password waits, for that name from that address only', async () => {
    const signIn = signInService();
    for (let i = 0; i < 8; i++)
      expect((await signIn.withPassword(fixture.db, 'nerea', `guess ${i}`, from('192.0.2.9'), now)).kind).to.equal(
        'wrong'
      );
    const refused = await signIn.withPassword(fixture.db, 'Nerea', 'right', from('192.0.2.9'), now);
    if (refused.kind !== 'too many') throw new Error(refused.kind);
    expect(refused.retryAfterSeconds).to.be.within(890, 900);
    expect((await signIn.withPassword(fixture.db, 'nerea', 'right', from('192.0.2.10'), now)).kind).to.equal(
      'signed in'
    );
  });

  it('tries for one name from everywhere are slowed down, and the right password is still taken', async () => {
    const waits: number[] = [];
    const signIn = signInService(undefined, (ms) => {
      waits.push(ms);
      return Promise.resolve();
    });
    for (let i = 0; i < 24; i++) await signIn.withPassword(fixture.db, 'nerea', 'wrong', from(`192.0.2.${i}`), now);
    expect(waits).to.deep.equal([250, 500, 750]);
    expect((await signIn.withPassword(fixture.db, 'nerea', 'right', from('198.51.100.1'), now)).kind).to.equal(
      'signed in'
    );
    expect([waitAfter(20), waitAfter(1000)]).to.deep.equal([0, 5000]);
  }).timeout(60_000);
});

describe('going on after signing in', () => {
  it('stays within this Bussola, however an address is written', () => {
    const origin = 'https://bussola.example.test';
    for (const to of ['/boards/3?range=PT3H#x', '/', '/a/../b'])
      expect(addressWithin(to, origin), to).to.equal(new URL(to, origin).href.slice(origin.length));
    for (const to of [
      '//host.example',
      '/\\host.example',
      '/\t/host.example',
      '/\n//host.example',
      '/\t\\host.example',
      'https://host.example',
      'x',
      '',
      '/\r/host.example'
    ])
      expect(addressWithin(to, origin), JSON.stringify(to)).to.equal('/');
    expect(addressWithin(null, origin)).to.equal('/');
  });
});

describe('where a request comes from', () => {
  it('is the socket’s address, whatever others say, unless the socket is a proxy that is named', () => {
    const plain = clientAddresses([]);
    expect(plain('192.0.2.1', '198.51.100.7')).to.equal('192.0.2.1');
    const behind = clientAddresses(['127.0.0.1', '10.0.0.0/8', '::1']);
    expect(behind('127.0.0.1', '198.51.100.7')).to.equal('198.51.100.7');
    expect(behind('::ffff:127.0.0.1', '198.51.100.7')).to.equal('198.51.100.7');
    expect(behind('192.0.2.1', '198.51.100.7'), 'not a proxy').to.equal('192.0.2.1');
    // What a stranger writes in front is not believed: the last hop that is no proxy of ours counts.
    expect(behind('127.0.0.1', '203.0.113.9, 198.51.100.7, 10.1.2.3')).to.equal('198.51.100.7');
    expect(behind('127.0.0.1', 'nonsense')).to.equal('127.0.0.1');
    expect(behind('127.0.0.1', null)).to.equal('127.0.0.1');
    expect(behind('::1', '2001:db8::7')).to.equal('2001:db8::7');
    expect(() => clientAddresses(['everywhere'])).to.throw('neither an address nor a range');
    expect(() => clientAddresses(['10.0.0.0/99'])).to.throw('neither an address nor a range');
  });
});

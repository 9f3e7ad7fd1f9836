import { expect } from 'chai';
import { Secret, TOTP } from 'otpauth';
import { withHouse } from '../../../../tests/support/bussola';
import { codeOfRefusal as codeOf, from, good, newPerson, signedIn } from '../../../../tests/support/people';
import { second } from '../../core/time';
import type { Role } from '../../core/people/rights';
import { profileOf } from '../people/people';
import { sessionOf } from '../people/sessions';
import { takeFactorFrom } from './manage-people';
import { changeOwnPassword, endOthers, ownSessions, renewOwnCodes, setOwnFactor } from './own';

describe('people who sign in', () => {
  const house = withHouse();
  const person = (name: string, role?: Role) => newPerson(house, name, role);
  const ownOf = (name: string) => signedIn(house, name);

  it('with a second factor sign in with a code, each once; five wrong ones end the try', async () => {
    const { bussola } = house;
    await person('ivo');
    const own = await ownOf('ivo');
    const other = await ownOf('ivo');
    const secret = new Secret({ size: 20 });
    const codeAt = (ahead: number) =>
      new TOTP({ secret }).generate({ timestamp: house.clock.now() + ahead * 30 * second });
    const entered = { password: good, secret: secret.base32 };
    expect(await codeOf(setOwnFactor(own, { ...entered, code: '000000' }))).to.equal('invalid');
    expect(await codeOf(setOwnFactor(own, { ...entered, password: 'wrong', code: codeAt(0) }))).to.equal('not-allowed');
    const codes = await setOwnFactor(own, { ...entered, code: codeAt(0) });
    expect(new Set(codes).size).to.equal(10);
    expect(await sessionOf(bussola.db, other.token, house.clock.now()), 'other sessions end').to.equal(null);
    expect(await sessionOf(bussola.db, own.token, house.clock.now())).not.to.equal(null);

    const { db, secrets, clock } = bussola;
    const half = async (): Promise<string> => {
      const result = await bussola.signIn.withPassword(db, 'ivo', good, from, clock.now());
      if (result.kind !== 'second factor') throw new Error(result.kind);
      expect(await sessionOf(db, result.token, clock.now()), 'half a sign-in is none').to.equal(null);
      return result.token;
    };
    const complete = async (token: string, code: string) =>
      (await bussola.signIn.withCode(db, secrets, token, code, from, clock.now())).kind;
    const one = await half();
    expect(await complete(one, codeAt(0)), 'the code that set it up').to.equal('wrong');
    expect(await complete(one, codeAt(1))).to.equal('signed in');
    expect(await complete(one, codeAt(2)), 'the same half again').to.equal('over');
    const two = await half();
    expect(await complete(two, codeAt(1)), 'a code again').to.equal('wrong');
    expect(await complete(two, codes[0] ?? '')).to.equal('signed in');
    const three = await half();
    expect(await complete(three, codes[0] ?? ''), 'a recovery code again').to.equal('wrong');
    for (let i = 0; i < 4; i++) expect(await complete(three, '123456')).to.equal('wrong');
    expect(await complete(three, codes[1] ?? ''), 'after five wrong ones').to.equal('over');
    const expired = await half();
    house.clock.pass(6);
    expect(await complete(expired, codes[1] ?? ''), 'after five minutes').to.equal('over');
    const renewed = await renewOwnCodes(own, codes[2] ?? '');
    const four = await half();
    expect(await complete(four, codes[3] ?? ''), 'a code before').to.equal('wrong');
    expect(await complete(four, (renewed[0] ?? '').toUpperCase().replace('-', ' '))).to.equal('signed in');
    // Two at once with the same code: one gets in.
    const [a, b] = [await half(), await half()];
    const both = await Promise.all([complete(a, renewed[1] ?? ''), complete(b, renewed[1] ?? '')]);
    expect(both.sort()).to.deep.equal(['signed in', 'wrong']);
    // Whoever knows the password finds no code out by trying, however many times they begin.
    const tried: string[] = [];
    for (let begun = 0; begun < 4; begun++) {
      const guessed = await half();
      for (let i = 0; i < 5; i++) tried.push(await complete(guessed, '123456'));
    }
    expect(tried.at(-1)).to.equal('too many');
    await takeFactorFrom(bussola, own.personId);
    expect((await profileOf(db, own.personId))?.codesLeft).to.equal(0);
    expect((await bussola.signIn.withPassword(db, 'ivo', good, from, clock.now())).kind).to.equal('signed in');
  });

  it('however many codes are tried at once with one half of a sign-in, five of them are looked at', async () => {
    const { bussola, clock } = house;
    const { db, secrets, signIn } = bussola;
    await person('quick');
    const own = await ownOf('quick');
    const secret = new Secret({ size: 20 });
    const code = new TOTP({ secret }).generate({ timestamp: clock.now() });
    const codes = await setOwnFactor(own, { password: good, secret: secret.base32, code });
    const half = await signIn.withPassword(db, 'quick', good, from, clock.now());
    if (half.kind !== 'second factor') throw new Error(half.kind);
    const guesses = Array.from({ length: 30 }, (_, index) => String(100_000 + index));
    const answers = await Promise.all(
      guesses.map((guess) => signIn.withCode(db, secrets, half.token, guess, from, clock.now()))
    );
    const looked = answers.filter(({ kind }) => kind === 'wrong');
    expect(looked.length).to.be.within(1, 5);
    expect(answers.some(({ kind }) => kind === 'signed in')).to.equal(false);
    const after = await signIn.withCode(db, secrets, half.token, codes[0] ?? '', from, clock.now());
    expect(after.kind, 'the right one comes too late').to.equal('over');
  });

  it('change their password with the one before, and end sessions elsewhere', async () => {
    await person('oda', 'viewer');
    const [own, other, third] = [await ownOf('oda'), await ownOf('oda'), await ownOf('oda')];
    expect((await ownSessions(own)).map(({ agent }) => agent)).to.deep.equal(['a browser', 'a browser', 'a browser']);
    expect(await codeOf(changeOwnPassword(own, 'wrong', 'seven seals on one rock'))).to.equal('not-allowed');
    expect(await codeOf(changeOwnPassword(own, good, 'password12345'))).to.equal('invalid');
    expect(await endOthers(third)).to.equal(2);
    expect(await sessionOf(house.bussola.db, other.token, house.clock.now())).to.equal(null);
    await changeOwnPassword(third, good, 'seven seals on one rock');
    expect(await sessionOf(house.bussola.db, third.token, house.clock.now())).not.to.equal(null);
  });
});

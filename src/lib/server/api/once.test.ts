import { expect } from 'chai';
import { withDatabase } from '../../../../tests/support/database';
import { refusalOf } from '../../../../tests/support/refusal';
import { Refusal } from '../../core/problem/problem';
import { instant } from '../../core/time';
import { secretBox } from '../base/secrets';
import { isKnown, refuseUnlessRead, tagOf } from './conditional';
import { once, onceKey, type OnceRequest } from './once';
import { RateExceeded, RequestRate } from '../people/request-rate';

describe('a request with an Idempotency-Key', () => {
  const fixture = withDatabase();
  let now = instant(1_777_903_200_000);
  const parts = () => ({
    db: fixture.db,
    clock: { now: () => now },
    secrets: secretBox('unused', Buffer.alloc(32, 7).toString('base64'))
  });
  const asked = (more: Partial<OnceRequest> = {}): OnceRequest => ({
    ...{ caller: 'person 1', key: 'k-1', method: 'POST', path: '/api/v1/signals', body: { name: 'a' } },
    ...more
  });
  let done = 0;
  const work = () => Promise.resolve(Response.json({ id: ++done, secret: 'of a key' }, { status: 201 }));
  const answerOf = async (response: Response) => [response.status, await response.json()] as const;

  beforeEach(async () => {
    await fixture.db.rows('delete from remembered_answers');
    done = 0;
  });

  it('is done once, and answered the same again', async () => {
    const first = await once(parts(), asked(), work);
    expect(await answerOf(first)).to.deep.equal([201, { id: 1, secret: 'of a key' }]);
    const second = await once(parts(), asked(), work);
    expect(second.headers.get('idempotency-replayed')).to.equal('true');
    expect(await answerOf(second)).to.deep.equal([201, { id: 1, secret: 'of a key' }]);
    expect(done).to.equal(1);
  });

  it('of another caller, or after a day, is another request', async () => {
    await once(parts(), asked(), work);
    await once(parts(), asked({ caller: 'key deploys' }), work);
    now = instant(now + 25 * 3_600_000);
    await once(parts(), asked(), work);
    expect(done).to.equal(3);
  });

  it('is refused where its key stood for something else', async () => {
    await once(parts(), asked(), work);
    for (const other of [{ body: { name: 'b' } }, { path: '/api/v1/groups' }, { method: 'PUT' }])
      expect((await refusalOf(once(parts(), asked(other), work)))?.code).to.equal('key-reused');
    expect(done).to.equal(1);
  });

  it('is done by one alone of several at the same time', async () => {
    const all = await Promise.allSettled(Array.from({ length: 12 }, () => once(parts(), asked(), work)));
    expect(done).to.equal(1);
    for (const one of all)
      if (one.status === 'rejected') expect((one.reason as Refusal).code).to.equal('still-going');
      else expect(one.value.status).to.equal(201);
  });

  it('that was refused can be sent again', async () => {
    const refused = () => Promise.reject(new Refusal('name-taken', 'Taken.', 'Choose another one.'));
    expect((await refusalOf(once(parts(), asked(), refused)))?.code).to.equal('name-taken');
    expect((await once(parts(), asked(), work)).status).to.equal(201);
  });

  it('whose end nobody knows is not done a second time', async () => {
    const broken = () => Promise.reject(new Error('the connection to the database is gone'));
    await once(parts(), asked(), broken).catch((error: unknown) => expect(String(error)).to.include('is gone'));
    expect((await refusalOf(once(parts(), asked(), work)))?.code).to.equal('still-going');
    expect(done).to.equal(0);
  });

  it('is stored sealed: an answer may hold a secret', async () => {
    await once(parts(), asked(), work);
    const [row] = await fixture.db.rows<{ answer: Buffer }>('select answer from remembered_answers');
    expect(row?.answer.toString('latin1')).to.not.include('of a key');
  });

  it('has a key of visible characters, quoted or not', () => {
    const keyOf = (text: string) => onceKey(new Headers({ 'idempotency-key': text }));
    expect([onceKey(new Headers()), keyOf('"a-1"'), keyOf(' a-1 ')]).to.deep.equal([null, 'a-1', 'a-1']);
    for (const text of ['', '""', 'a b', 'x'.repeat(201)]) expect(() => keyOf(text), text).to.throw(Refusal);
  });
});

describe('tags of answers', () => {
  const asking = (headers: Record<string, string>) => new Request('https://bussola.example.test/', { headers });

  it('differ with what is answered, and are what If-None-Match names', () => {
    const [one, other] = [tagOf('{"a":1}'), tagOf('{"a":2}')];
    expect(one)
      .to.match(/^"[\w-]{28}"$/)
      .and.not.equal(other);
    expect(isKnown(asking({ 'if-none-match': `"x", W/${one}` }), one)).to.equal(true);
    expect(isKnown(asking({ 'if-none-match': other }), one)).to.equal(false);
    expect(isKnown(asking({}), one)).to.equal(false);
  });

  it('permit a change of what is as it was read alone', () => {
    const tag = tagOf('{"a":1}');
    for (const header of [tag, '*', `"x", ${tag}`]) refuseUnlessRead(asking({ 'if-match': header }), ['"y"', tag]);
    refuseUnlessRead(asking({}), []);
    for (const [header, current] of [
      [tag, []],
      ['*', []],
      ['"x"', [tag]]
    ] as const)
      expect(() => refuseUnlessRead(asking({ 'if-match': header }), current)).to.throw(Refusal, 'not as it was');
  });
});

describe('the rate of requests of a key', () => {
  it('is said with each answer, and what is beyond it is refused with how long to wait', async () => {
    const rate = new RequestRate(3, 60);
    const left = [];
    for (let i = 0; i < 3; i++) left.push((await rate.count('a'))['ratelimit']);
    expect(left).to.deep.equal(['"key";r=2;t=60', '"key";r=1;t=60', '"key";r=0;t=60']);
    const refused = await rate.count('a').catch((error: unknown) => error);
    expect(refused).to.be.instanceOf(RateExceeded).and.include({ code: 'too-many-requests' });
    expect(Number((refused as RateExceeded).headers['retry-after'])).to.be.within(1, 60);
    expect((await rate.count('b'))['ratelimit-policy']).to.equal('"key";q=3;w=60');
  });
});

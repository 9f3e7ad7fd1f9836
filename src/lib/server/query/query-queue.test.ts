import { Refusal } from '$lib/core/problem/problem';
import { expect } from 'chai';
import { setImmediate } from 'node:timers/promises';
import { GivenUp, QueryQueue, type Reader } from './query-queue';

/** Work that ends when the test says so. */
function pending() {
  const begun: string[] = [];
  const ends = new Map<string, () => void>();
  const work = (name: string) => (gone: AbortSignal) => {
    begun.push(name);
    return new Promise<string>((resolve, reject) => {
      ends.set(name, () => resolve(name));
      gone.addEventListener('abort', () => reject(new GivenUp()));
    });
  };
  const end = async (name: string) => {
    ends.get(name)?.();
    await setImmediate();
  };
  return { begun, work, end };
}

describe('turns of queries', () => {
  const of = (name: string, more: Partial<Reader> = {}): Reader => ({ name, ...more });

  it('go round among the readers: who asks much does not keep the others waiting', async () => {
    const turns = new QueryQueue({ atOnce: 1 });
    const { begun, work, end } = pending();
    for (let i = 1; i <= 50; i++) void turns.ask(of('much'), null, work(`much ${i}`));
    await setImmediate();
    void turns.ask(of('one'), null, work('one 1'));
    void turns.ask(of('two'), null, work('two 1'));
    void turns.ask(of('one'), null, work('one 2'));
    for (let i = 0; i < 6; i++) await end(begun.at(-1) as string);
    expect(begun).to.deep.equal(['much 1', 'much 2', 'one 1', 'two 1', 'much 3', 'one 2', 'much 4']);
  });

  it('are worked on several at a time, but of one reader one, and of all anonymous ones one', async () => {
    const turns = new QueryQueue({ atOnce: 3 });
    const { begun, work, end } = pending();
    const anonymous = { isAnonymous: true };
    void turns.ask(of('link 1', anonymous), null, work('link 1'));
    void turns.ask(of('link 2', anonymous), null, work('link 2'));
    void turns.ask(of('nerea'), null, work('nerea 1'));
    void turns.ask(of('nerea'), null, work('nerea 2'));
    await setImmediate();
    expect(begun).to.deep.equal(['link 1', 'nerea 1']);
    await end('link 1');
    expect(begun.slice(2)).to.deep.equal(['link 2']);
    await end('nerea 1');
    expect(begun.slice(3)).to.deep.equal(['nerea 2']);
  });

  it('answer equal queries once, and a later one anew', async () => {
    const turns = new QueryQueue();
    const { begun, work, end } = pending();
    const [one, other] = [turns.ask(of('nerea'), 'q', work('a')), turns.ask(of('ivo'), 'q', work('b'))];
    await setImmediate();
    await end('a');
    expect(await Promise.all([one, other])).to.deep.equal(['a', 'a']);
    void turns.ask(of('ivo'), 'q', work('c'));
    await setImmediate();
    expect(begun).to.deep.equal(['a', 'c']);
  });

  it('give up what nobody waits for any more, whether it waits or is worked on', async () => {
    const turns = new QueryQueue({ atOnce: 1 });
    const { begun, work, end } = pending();
    const [first, second, third] = [new AbortController(), new AbortController(), new AbortController()];
    const ask = (reader: string, key: string, { signal }: AbortController) =>
      turns.ask(of(reader, { gone: signal }), key, work(key)).catch((error: unknown) => (error as Error).name);
    const answers = [ask('a', 'x', first), ask('b', 'x', second), ask('c', 'y', third)];
    await setImmediate();
    first.abort();
    await setImmediate();
    expect(begun, 'another still waits for x').to.deep.equal(['x']);
    third.abort();
    await setImmediate();
    expect(turns.length).to.equal(0);
    second.abort();
    await setImmediate();
    expect(await Promise.all(answers)).to.deep.equal(['GivenUp', 'GivenUp', 'GivenUp']);
    void turns.ask(of('d'), 'z', work('z'));
    await setImmediate();
    expect(begun, 'the place of x is free, y was never begun').to.deep.equal(['x', 'z']);
    await end('z');
  });

  it('refuse more than may wait, of one reader and of all, and go on', async () => {
    const turns = new QueryQueue({ atOnce: 1, ofReader: 2, ofAll: 3 });
    const { begun, work, end } = pending();
    void turns.ask(of('a'), null, work('a1'));
    await setImmediate();
    void turns.ask(of('a'), null, work('a2'));
    void turns.ask(of('a'), null, work('a3'));
    const refused = (reader: string) =>
      turns.ask(of(reader), null, work(reader)).catch((error: unknown) => (error as Error).constructor);
    expect(await refused('a')).to.equal(Refusal);
    void turns.ask(of('b'), null, work('b1'));
    expect(await refused('c')).to.equal(Refusal);
    for (const name of ['a1', 'a2', 'b1', 'a3']) await end(name);
    expect(begun).to.deep.equal(['a1', 'a2', 'b1', 'a3']);
    expect(turns.length).to.equal(0);
  });

  it('pass a failure on to who asked, and take the next', async () => {
    const turns = new QueryQueue({ atOnce: 1 });
    const failure = await turns
      .ask(of('a'), 'k', () => Promise.reject(new Error('broken')))
      .catch((error: unknown) => (error as Error).message);
    expect(failure).to.equal('broken');
    expect(await turns.ask(of('a'), 'k', () => Promise.resolve(7))).to.equal(7);
  });
});

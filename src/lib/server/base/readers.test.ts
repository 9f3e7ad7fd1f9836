import { expect } from 'chai';
import { Readers } from './readers';

describe('whoever waits for an answer', () => {
  it('goes first: what can wait goes on when nobody reads, and soon after', async () => {
    let now = 0;
    const readers = new Readers(() => now);
    expect(readers.isQuiet).to.equal(true);
    await readers.quiet(60_000); // at once
    const [one, other] = [readers.begin(), readers.begin()];
    one();
    one(); // twice counts once
    now += 1000;
    expect(readers.isQuiet).to.equal(false);
    other();
    expect(readers.isQuiet, 'the next query comes soon').to.equal(false);
    let isOver = false;
    const waiting = readers.quiet(60_000).then(() => (isOver = true));
    expect(isOver).to.equal(false);
    now += 1000;
    await waiting;
  });

  it('does not keep it from going on for ever', async () => {
    const readers = new Readers();
    const end = readers.begin();
    await readers.quiet(20);
    expect(readers.isQuiet).to.equal(false);
    end();
  });
});

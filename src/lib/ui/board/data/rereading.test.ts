import { expect } from 'chai';
import { Rereading } from './rereading';

describe('reading again after news', () => {
  /** A board whose pauses and answers are ended by hand. */
  function pending() {
    const pauses: (() => void)[] = [];
    const answers: (() => void)[] = [];
    const asked = () => new Promise<void>((resolve) => answers.push(resolve));
    const rereading = new Rereading(asked, (_, work) => {
      pauses.push(work);
      return () => pauses.splice(pauses.indexOf(work), 1);
    });
    const pause = async () => {
      pauses.shift()?.();
      await settled();
    };
    return { rereading, answers, pauses, asked, pause };
  }
  /** Until all that waits for a promise has run. */
  const settled = () => new Promise<void>((resolve) => setImmediate(resolve));

  it('reads the news of a moment together', async () => {
    const { rereading, answers, pauses, pause } = pending();
    for (let i = 0; i < 5; i++) rereading.soon();
    expect(pauses).to.have.length(1);
    expect(answers, 'not at once').to.have.length(0);
    await pause();
    expect(answers).to.have.length(1);
  });

  it('waits for the answer under way, then reads once more what came meanwhile', async () => {
    const { rereading, answers, pause } = pending();
    rereading.soon();
    await pause();
    for (let i = 0; i < 3; i++) {
      rereading.soon();
      await pause();
    }
    expect(answers, 'nothing is broken off').to.have.length(1);
    answers[0]?.();
    await settled();
    expect(answers).to.have.length(2);
    answers[1]?.();
    await settled();
    expect(answers, 'no news, no reading').to.have.length(2);
  });

  it('waits for what was asked besides, and for all of it', async () => {
    const { rereading, answers, asked, pause } = pending();
    rereading.wait(asked());
    rereading.wait(Promise.resolve());
    rereading.soon();
    await pause();
    expect(answers).to.have.length(1);
    answers[0]?.();
    await settled();
    expect(answers).to.have.length(2);
  });

  it('ends, in a pause and while it waits', async () => {
    const { rereading, answers, pauses, pause, asked } = pending();
    rereading.soon();
    rereading.stop();
    expect(pauses).to.have.length(0);
    rereading.wait(asked());
    rereading.soon();
    await pause();
    rereading.stop();
    answers[0]?.();
    await settled();
    expect(answers).to.have.length(1);
  });
});

import { rule, threshold } from '../../../../tests/support/alarm';
import { expect } from 'chai';
import { instantFromText, type Instant } from '$lib/core/time';
import { exampleMessage } from './example-message';

describe('the example of an alarm’s message', () => {
  const alarm = {
    name: 'busy web',
    rule: rule(3, 5, { levels: [threshold('above', 71)] })
  };
  const period = (from: Instant) => ({
    ...{ seriesId: 1, from, to: null, peak: 73.5, beyond: 2.5 },
    ...{ severity: 'major' as const, steps: [] }
  });
  const now = instantFromText('2026-11-27T07:35:00Z');
  const subjectOf = (from: string | null) =>
    exampleMessage(alarm, {
      subject: 'tariff-worker-2',
      what: 'processor use',
      unit: '%',
      worst: from === null ? undefined : period(instantFromText(from)),
      now
    }).subject;

  it('names the day of a time that is not of today', () => {
    const begins = 'MAJOR tariff-worker-2: processor use 73.5 % (limit 71 %) since';
    expect(subjectOf('2026-11-26T07:38:00Z')).to.equal(`${begins} Thu 07:38`);
    expect(subjectOf('2026-11-27T02:13:00Z')).to.equal(`${begins} 02:13`);
  });

  it('says the limit where it would not have been raised', () => {
    expect(subjectOf(null)).to.equal('MAJOR tariff-worker-2: processor use 71 % (limit 71 %) since 07:35');
  });
});

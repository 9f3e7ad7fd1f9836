import { expect } from 'chai';
import { hour, instant, minute, times, type Instant } from '../time';
import { feedOf, type Collected } from './dark';

describe('what comes of an account', () => {
  const now = instant(Date.UTC(2026, 4, 4, 3, 10));
  const ago = (minutes: number) => (now - times(minutes, minute)) as Instant;
  const since = (now - times(5, hour)) as Instant;
  const fine: Collected = { newestAt: ago(1), lastSuccessAt: ago(0), isFailing: false };
  const refused: Collected = { newestAt: null, lastSuccessAt: null, isFailing: true };

  it('is as old as the newest sample of any of its services', () => {
    expect(feedOf([{ ...fine, newestAt: ago(90) }, fine], since, now).age).to.equal(times(1, minute));
  });
  it('is as old as the account when it never sent anything', () => {
    expect(feedOf([refused], since, now).age).to.equal(times(5, hour));
    expect(feedOf([], since, now).age).to.equal(times(5, hour));
  });
  it('counts services that fail while others succeed, once they fail for five minutes', () => {
    const failed = (minutes: number) => ({ ...fine, lastSuccessAt: ago(minutes), isFailing: true });
    expect(feedOf([fine, refused, failed(5), failed(4)], since, now).silentServices).to.equal(2);
  });
  it('counts none when all of them fail: the age says that', () => {
    expect(feedOf([refused, refused], since, now).silentServices).to.equal(0);
  });
  it('is not younger than now when a clock was set back', () => {
    expect(feedOf([{ ...fine, newestAt: (now + 1000) as Instant }], since, now).age).to.equal(0);
  });
});

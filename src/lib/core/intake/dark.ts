import { minute, times, type Duration, type Instant } from '../time';

/** An account that has sent nothing new for so long is dark: what is late by less may still come by itself. */
export const darkAfter: Duration = times(15, minute);
/** A service of an account whose requests have failed for so long counts as silent. */
const silentAfter = times(5, minute);

/** How collecting a service of an account goes, as far as it says whether anything comes. */
export interface Collected {
  readonly newestAt: Instant | null;
  readonly lastSuccessAt: Instant | null;
  readonly isFailing: boolean;
}

/** What comes of an account. */
export interface AccountFeed {
  /** Age of the newest sample of any of its services, or of the account when it never sent one, ms. */
  readonly age: Duration;
  /** Services whose requests fail while others succeed: none when nothing comes at all, which the age says. */
  readonly silentServices: number;
}

/**
 * What comes of an account.
 *
 * @param since the account was connected
 * @example feedOf([{ newestAt: null, lastSuccessAt: null, isFailing: true }], since, now) // { age: now - since, silentServices: 0 }
 */
export function feedOf(services: readonly Collected[], since: Instant, now: Instant): AccountFeed {
  const newest = services.reduce<number>((most, { newestAt }) => Math.max(most, newestAt ?? 0), since);
  const silent = services.filter(
    ({ isFailing, lastSuccessAt }) => isFailing && now - (lastSuccessAt ?? since) >= silentAfter
  ).length;
  return { age: Math.max(0, now - newest) as Duration, silentServices: silent === services.length ? 0 : silent };
}

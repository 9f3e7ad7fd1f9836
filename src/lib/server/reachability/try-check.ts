import { Refusal } from '$lib/core/problem/problem';
import type { Attempt, Check } from '$lib/core/reachability';
import type { Instant } from '$lib/core/time';
import type { AddressPolicy } from '../providers/port/outbound';
import { attempt } from './attempt';

/** Attempts that people try at once, all together; each person has one at a time. */
const mostAtOnce = 6;

/** Who is trying a check at this moment. One for the process. */
export class CheckTrials {
  readonly #trying = new Set<string>();

  /**
   * Makes one attempt of a check for a person, and stores nothing.
   *
   * @param who equal for all that one person tries
   * @throws Refusal `too-many-requests` while another of theirs runs, or too many run
   */
  async try(who: string, check: Check, refusedWhy: AddressPolicy, now: Instant): Promise<Attempt> {
    if (this.#trying.has(who) || this.#trying.size >= mostAtOnce)
      throw new Refusal(
        'too-many-requests',
        this.#trying.has(who) ? 'A check that you try is still running.' : 'Too many people try checks at the moment.',
        'Wait until it has ended, then try again.'
      );
    this.#trying.add(who);
    try {
      return await attempt(check, refusedWhy, now);
    } finally {
      this.#trying.delete(who);
    }
  }
}

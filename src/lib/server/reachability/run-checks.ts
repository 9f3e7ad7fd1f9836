import type { Logger } from 'pino';
import { nextAfter, standingAfter } from '$lib/core/reachability';
import { after, before, day, duration, hour, second, times, type Clock, type Instant } from '$lib/core/time';
import type { Changes } from '../base/changes';
import { saveEvent } from '../intake/events/events';
import { openOwnAccount } from '../intake/own/own-account';
import type { Intake } from '../intake/ledger/intake';
import { storeSeries } from '../intake/ledger/store-series';
import { saveDiscovered } from '../inventory/resources';
import type { AddressPolicy } from '../providers/port/outbound';
import { attempt } from './attempt';
import { claimDue, forgetAttempts, noteAttempt, releaseClaim, saveAttempt, type StoredCheck } from './checks';
import { attemptSamples, eventOfChange, resourceOfCheck } from './measure-checks';

/** How often, in real time, it is looked whether checks are due, ms. */
const lookEveryMs = 500;
/** Attempts that are made at once: hosts that never answer hold none of the others up. */
const mostAtOnce = 64;
/** A claim ends by itself after the longest attempt and some time to write it down, should its process end. */
const claimedFor = times(90, second);
/** Attempts that failed are remembered this long. */
const rememberedFor = times(14, day);

/** What making checks needs. */
export interface CheckRunner extends Pick<Intake, 'db' | 'store' | 'disk' | 'book'> {
  readonly clock: Clock;
  readonly changes: Changes;
  readonly log: Logger;
  /** Which addresses may be called. */
  readonly refusedWhy: AddressPolicy;
}

/**
 * Makes the attempts of reachability checks as they are due by the injected clock, each on its own: a slow host delays none of the others.
 *
 * @returns what stops it: attempts that run are broken off and count for nothing
 */
export function startChecking(runner: CheckRunner): { stop(): Promise<void> } {
  const { db, clock, changes, log } = runner;
  const running = new Set<Promise<void>>();
  const ending = new AbortController();
  let looking: Promise<void> | null = null;
  let tidiedAt = 0 as Instant;

  async function look(): Promise<void> {
    const now = clock.now();
    const free = mostAtOnce - running.size;
    if (free > 0)
      for (const due of await claimDue(db, now, after(now, claimedFor), free)) {
        const made = makeAttempt(runner, due, ending.signal)
          .catch((error: unknown) => log.error({ err: error, check: due.id }, 'an attempt could not be made'))
          .finally(() => running.delete(made));
        running.add(made);
      }
    if (now - tidiedAt >= hour || now < tidiedAt) {
      tidiedAt = now;
      await forgetAttempts(db, before(now, rememberedFor));
    }
  }
  const lookSoon = (): void => {
    if (ending.signal.aborted) return;
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'checks could not be looked at; it is tried again'))
      .finally(() => (looking = null));
  };
  changes.on('reachability', lookSoon);
  const timer = setInterval(lookSoon, lookEveryMs);
  return {
    stop: async () => {
      // A host that never answers does not keep the process: its check is tried again by whoever comes next.
      ending.abort();
      clearInterval(timer);
      changes.off('reachability', lookSoon);
      await looking;
      await Promise.all(running);
    }
  };
}

/** Makes one attempt, and writes down what it came to. */
async function makeAttempt(runner: CheckRunner, one: StoredCheck, ending: AbortSignal): Promise<void> {
  const { db, clock, changes, refusedWhy } = runner;
  const made = await attempt(one.check, refusedWhy, clock.now(), ending);
  if (ending.aborted) return releaseClaim(db, one);
  const standing = standingAfter(one.standing, made, one.check.retries);
  const dueAt = after(made.at, duration(nextAfter(standing, one.check) * 1000));
  const accountId = await openOwnAccount(db, made.at);
  const event = eventOfChange(one, made, standing);
  // Together: what a check turned into is told once and never lost, whenever the process ends.
  const counts = await db.transaction(async (within) => {
    if (!(await noteAttempt(within, one, made, standing, dueAt))) return false;
    if (made.problem !== null || standing.state !== one.standing.state)
      await saveAttempt(within, one.id, made, standing);
    await saveDiscovered(within, accountId, [resourceOfCheck(one)], made.at, false);
    if (event !== null) await saveEvent(within, accountId, event);
    return true;
  });
  if (!counts) return; // it was changed meanwhile: what was found is of what it looked at before
  const { written } = await storeSeries(
    runner,
    accountId,
    'reachability',
    attemptSamples(one, made, standing),
    made.at
  );
  if (written > 0) changes.tell('samples', { accountId });
  if (event !== null) changes.tell('account', { accountId });
  changes.tell('reachability', { checkId: one.id });
}

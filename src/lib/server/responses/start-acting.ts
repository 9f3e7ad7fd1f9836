import { after, before, day, hour, times, type Instant } from '$lib/core/time';
import { forgetRuns, noteEffect, takeDueRuns, type StoredRun } from './runs';
import { askAfter, claimedFor, effectOf, sendRun, watchAgain, type Actor } from './send-run';
import { Looks, stopAfterFailures, takeUp } from './take-up';

/** How often, in real time, it is looked whether something is to be done, ms. */
const lookEveryMs = 500;
/** What was done is remembered this long. */
const rememberedFor = times(400, day);
const mostAtOnce = 50;

/**
 * Does what responses are to do, asks what came of what was sent, and watches whether it helped. Several processes share it: what one has claimed, the others leave alone.
 *
 * @returns what stops it, letting what runs end
 */
export function startActing(actor: Actor): { stop(): Promise<void> } {
  const { db, clock, changes, log } = actor;
  const looks = new Looks();
  const running = new Set<Promise<void>>();
  let stopped = false;
  let looking: Promise<void> | null = null;
  let tidiedAt = 0 as Instant;

  function run(work: Promise<void>, of: StoredRun): void {
    const ran: Promise<void> = work
      .catch((error: unknown) => log.error({ err: error, run: of.id }, 'what was to be done could not be followed'))
      .finally(() => running.delete(ran));
    running.add(ran);
  }
  async function look(): Promise<void> {
    for (const one of await takeUp(actor, looks)) run(settled(sendRun(actor, one), one), one);
    const now = clock.now();
    for (const one of await takeDueRuns(db, now, after(now, claimedFor), mostAtOnce))
      run(one.state === 'done' ? watch(one) : settled(askAfter(actor, one), one), one);
    if (now - tidiedAt >= hour || now < tidiedAt) {
      tidiedAt = now;
      await forgetRuns(db, before(now, rememberedFor));
    }
  }
  /** What a response did may have been its last failure. */
  async function settled(work: Promise<void>, { responseId }: StoredRun): Promise<void> {
    await work;
    if (responseId !== null) await stopAfterFailures(actor, responseId);
  }
  async function watch(one: StoredRun): Promise<void> {
    const effect = await effectOf(actor, one);
    if (effect === 'gone') return noteEffect(db, one.id, null, null);
    await noteEffect(db, one.id, effect, effect === null ? after(clock.now(), watchAgain) : null);
    if (effect === null) return;
    if (one.responseId !== null) await stopAfterFailures(actor, one.responseId);
    changes.tell('responses', {});
  }
  const lookSoon = (): void => {
    if (stopped) return;
    looking ??= look()
      .catch((error: unknown) => log.error({ err: error }, 'responses could not be looked at; it is tried again'))
      .finally(() => (looking = null));
  };
  changes.on('alarm', lookSoon);
  changes.on('responses', lookSoon);
  const timer = setInterval(lookSoon, lookEveryMs);
  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      changes.off('alarm', lookSoon);
      changes.off('responses', lookSoon);
      await looking;
      await Promise.all(running);
    }
  };
}

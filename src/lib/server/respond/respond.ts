import type { Logger } from 'pino';
import type { Changes } from '../base/changes';
import type { Readers } from '../base/readers';
import type { Database } from '../db/pool';
import { fallBack } from './fall-back';
import { notifyOfEvents, type Notifier } from './notify-of-events';
import { remindOfShifts } from './remind';
import { checkDelivery } from './self-check';
import { changeShelvings } from './shelve';
import { sendDue } from './send-due';

/** How often, in real time, it is looked whether something has happened that people should know. */
const lookEveryMs = 250;

/** How often, in real time, it is looked whether all channels of a step or of a kind fail, and whether a watch begins. */
const slowLookEveryMs = 5000;

/** What decides who is notified works with. */
export interface Responder extends Notifier {
  readonly db: Database;
  readonly readers: Readers;
  readonly changes: Changes;
  readonly log: Logger;
}

/**
 * Decides, from what has been recorded of incidents, who is notified: as soon as something is recorded, and anew after every start, since what has been decided is noted beside each event in the same transaction. Several
 * processes share this work: one takes what another has not locked.
 *
 * @returns what stops it, letting running work end
 */
export function startResponding(responder: Responder): { stop(): Promise<void> } {
  const { changes, log } = responder;
  /** Of what nobody could be notified, and why: logged once, not with every try. */
  const notNotifiedOf = new Set<string>();
  function notNotified(subject: string, error: unknown): void {
    if (notNotifiedOf.has(subject)) return;
    notNotifiedOf.add(subject);
    log.error({ err: error, subject }, 'nobody could be notified; it is tried again');
  }

  let stopped = false;
  let responding: Promise<void> | null = null;
  let slowlyLooked = 0;
  async function respond(): Promise<void> {
    let more = true;
    let failed = 0;
    if (performance.now() - slowlyLooked >= slowLookEveryMs) {
      slowlyLooked = performance.now();
      await fallBack(responder, notNotified);
      await remindOfShifts(responder, notNotified);
      await checkDelivery(responder).catch((error: unknown) => notNotified('that messages do not leave', error));
    }
    while (more && !stopped) {
      await changeShelvings(responder, notNotified);
      const done = await notifyOfEvents(responder, notNotified, failed);
      failed += done.failed;
      ({ more } = done);
      if (!stopped) more = (await sendDue(responder, notNotified)) || more;
    }
  }
  const lookSoon = (): void => {
    if (stopped) return;
    responding ??= respond()
      .catch((error: unknown) => log.error({ err: error }, 'nobody could be notified'))
      .finally(() => (responding = null));
  };
  changes.on('alarm', lookSoon);
  const timer = setInterval(lookSoon, lookEveryMs);
  return {
    stop: async () => {
      stopped = true;
      clearInterval(timer);
      changes.off('alarm', lookSoon);
      await responding;
    }
  };
}

import { hastened } from '$lib/core/notify/route';
import { before, minute, type Clock } from '$lib/core/time';
import type { Database } from '../db/pool';
import { deafThreads } from '../notify/outbox-lists';
import { routeById } from '../routing/routes';
import { saveThread, takeThread } from './threads';

/** Messages that nobody has taken for so long are as good as not sent: the next people are notified. */
const patience = minute;

/**
 * Takes the next step of threads whose messages all fail, since their channels refuse or cannot be reached: without it, whoever is next would be notified only after the time of the step, or never.
 *
 * @param onFault hears why one could not; it is tried again the next time
 */
export async function fallBack(
  { db, clock }: { readonly db: Database; readonly clock: Clock },
  onFault: (subject: string, error: unknown) => void
): Promise<void> {
  for (const id of await deafThreads(db, before(clock.now(), patience)))
    try {
      await db.transaction(async (within) => {
        const stored = await takeThread(within, id);
        const route = stored === null ? null : await routeById(within, stored.routeId);
        if (stored === null || route === null) return;
        if (!stored.thread.open.some(({ acknowledged }) => !acknowledged)) return;
        const next = hastened(stored.thread, route.route, clock.now());
        if (next !== stored.thread) await saveThread(within, id, next, route.route);
      });
    } catch (error) {
      onFault(`thread ${id}`, error);
    }
}

import { shiftsIn } from '$lib/core/rota';
import { after, before, duration, minute, type Clock, type Instant } from '$lib/core/time';
import type { Database } from '../db/pool';
import type { Delivery } from '../notify/deliver';
import { allRotas, noteReminder, overridesIn, type StoredOverride, type StoredRota } from '../rotas/rotas';
import { notifyPerson } from '../rotas/notify-person';

/**
 * Reminds whoever is about to have the watch, as long before it as their rota says; each shift once, however often it is looked and by however many processes. Whoever has the watch already and goes on with it is not reminded.
 *
 * @param onFault hears why somebody could not be reminded; it is tried again the next time
 */
export async function remindOfShifts(
  { db, clock, delivery }: { readonly db: Database; readonly clock: Clock; readonly delivery: Delivery },
  onFault: (subject: string, error: unknown) => void
): Promise<void> {
  const now = clock.now();
  const rotas = await allRotas(db);
  if (rotas.length === 0) return;
  const longest = Math.max(0, ...rotas.map(({ rota }) => rota.remindBefore ?? 0));
  const overrides = await overridesIn(db, { from: before(now, minute), to: after(now, duration(longest)) });
  for (const stored of rotas)
    for (const { from, personId } of comingShifts(stored, overrides, now))
      try {
        await db.transaction(async (within) => {
          if (!(await noteReminder(within, stored.id, personId, from))) return;
          await notifyPerson(within, delivery, personId, reminderOf(stored.rota.name, from), now);
        });
      } catch (error) {
        onFault(`rota ${stored.id}`, error);
      }
}

/** Shifts of a rota that begin within the time of its reminder, with somebody else than before. */
function comingShifts(
  { id, rota }: StoredRota,
  overrides: readonly StoredOverride[],
  now: Instant
): { from: Instant; personId: number }[] {
  if (rota.remindBefore === null) return [];
  const own = overrides.filter(({ rotaId }) => rotaId === id);
  const shifts = shiftsIn(rota, own, { from: now, to: after(now, duration(rota.remindBefore + minute)) });
  return shifts.flatMap(({ from, personId }, index) => {
    const isNew = index > 0 && personId !== null && shifts[index - 1]?.personId !== personId;
    return isNew && from - now <= (rota.remindBefore ?? 0) ? [{ from, personId }] : [];
  });
}

const reminderOf = (rota: string, from: Instant) => ({
  kind: 'note' as const,
  subject: `Your watch for ${rota} begins soon`,
  sentence: `You have the watch for ${rota} next. Incidents that its routes take reach you from then on.`,
  rows: [{ name: 'From', at: from }],
  path: '/rotas',
  linkText: 'See the rotas in Bussola'
});

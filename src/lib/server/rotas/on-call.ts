import { shiftsIn, type Shift } from '$lib/core/rota';
import { after, before, day, minute, times, type Instant } from '$lib/core/time';
import type { Queryable } from '../db/pool';
import { allPeople, type Person } from '../people/people';
import { allRotas, overridesIn, type StoredOverride, type StoredRota } from './rotas';

/** Who has the watch by a rota now, and who is next. */
export interface OnCall {
  readonly rotaId: number;
  readonly rota: string;
  readonly zone: string;
  /** Null when nobody has it. */
  readonly person: string | null;
  readonly personId: number | null;
  /** Until when; null for longer than 40 days. */
  readonly until: Instant | null;
  /** Who has it then; null for nobody. */
  readonly next: string | null;
  /** The next span in which nobody has the watch, of the next two weeks. */
  readonly gap: { readonly from: Instant; readonly to: Instant } | null;
}

/** Days that are looked at for a handover. */
const lookDays = 40;
/** Days in which gaps are looked for. */
const gapDays = 14;

/** What was found last for each database: every page shows it, and it changes with the minute, or when somebody changes a rota. */
const found = new WeakMap<Queryable, { readonly by: string; readonly onCall: readonly OnCall[] }>();

/** Who has the watch by each rota, by the rotas' names. */
export async function whoHasTheWatch(db: Queryable, now: Instant): Promise<readonly OnCall[]> {
  const span = { from: before(now, times(lookDays, day)), to: after(now, times(lookDays, day)) };
  const [rotas, people, overrides] = await Promise.all([allRotas(db), allPeople(db), overridesIn(db, span)]);
  const by = JSON.stringify([
    Math.floor(now / minute),
    rotas.map(({ id, version }) => [id, version]),
    people.map(({ displayName }) => displayName),
    overrides
  ]);
  const known = found.get(db);
  if (known?.by === by) return known.onCall;
  const onCall = computed(rotas, people, overrides, now);
  found.set(db, { by, onCall });
  return onCall;
}

function computed(
  rotas: readonly StoredRota[],
  people: readonly Person[],
  overrides: readonly StoredOverride[],
  now: Instant
): OnCall[] {
  const to = after(now, times(lookDays, day));
  const nameOf = (id: number | null) => people.find((person) => person.id === id)?.displayName ?? null;
  return rotas.map(({ id, rota }) => {
    const own = overrides.filter(({ rotaId }) => rotaId === id);
    const ahead = shiftsIn(rota, own, { from: now, to });
    const current = ahead[0] as Shift;
    const until = ahead.find(({ personId }) => personId !== current.personId)?.from ?? null;
    const then = ahead.find(({ from }) => from === until);
    const gapEnd = after(now, times(gapDays, day));
    const gap = ahead.find(({ personId, from }) => personId === null && from < gapEnd) ?? null;
    return {
      ...{ rotaId: id, rota: rota.name, zone: rota.zone },
      person: nameOf(current.personId),
      personId: current.personId,
      until,
      next: nameOf(then?.personId ?? null),
      gap: gap && { from: gap.from, to: gap.to }
    };
  });
}

import { Refusal } from '$lib/core/problem/problem';
import { shiftsIn, type Rota } from '$lib/core/rota';
import type { Instant, Range } from '$lib/core/time';
import { changedMeanwhile } from '../base/changed-meanwhile';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import type { Delivery } from '../notify/deliver';
import { allPeople } from '../people/people';
import { notifyPerson } from './notify-person';
import {
  allRotas,
  answerSwap as noteAnswer,
  changeRota,
  deleteOverride,
  insertOverride,
  insertRota,
  insertSwap,
  lockSwap,
  overridesIn,
  rotaById,
  type StoredRota,
  type Swap
} from './rotas';

interface Person {
  readonly id: number | null;
  readonly displayName: string;
}

/** What asking for a swap needs besides: whoever is asked is notified. */
interface SwapContext extends Context {
  readonly delivery: Delivery;
}

/** Adds a rota. @throws Refusal `invalid` for people who are not there, `name-taken` */
export async function addRota({ db, clock, changes }: Context, rota: Rota, by: string): Promise<StoredRota> {
  await refuseUnknown(db, rota, null);
  const made = await insertRota(db, rota, { at: clock.now(), by });
  changes.tell('routing', {});
  return made;
}

/** Changes a rota. @throws Refusal as {@link addRota}, `not-found`, `changed-meanwhile` */
export async function saveRota(
  { db, clock, changes }: Context,
  id: number,
  rota: Rota,
  version: number,
  by: string
): Promise<StoredRota> {
  await refuseUnknown(db, rota, id);
  const saved = await changeRota(db, id, rota, version, { at: clock.now(), by });
  if (saved === null) throw changedMeanwhile(await rotaById(db, id), 'rota', noSuchRota);
  changes.tell('routing', {});
  return saved;
}

/** Somebody takes a span over, whoever has it by the layers. @returns the id of the override @throws Refusal `not-found`, `invalid` */
export async function addOverride(
  { db, clock, changes }: Context,
  rotaId: number,
  { from, to, personId, reason }: Range & { readonly personId: number; readonly reason: string },
  by: string
): Promise<number> {
  await requireRota(db, rotaId);
  refuseSpan({ from, to }, clock.now());
  await requirePerson(db, personId);
  const id = await insertOverride(db, { rotaId, from, to, personId, reason }, { at: clock.now(), by });
  changes.tell('routing', {});
  return id;
}

/** Removes an override: whoever has the watch by the layers has it again. @throws Refusal `not-found` */
export async function removeOverride({ db, changes }: Context, id: number): Promise<void> {
  if (!(await deleteOverride(db, id)))
    throw new Refusal('not-found', 'There is no such override.', 'It may have been removed. See the rotas.');
  changes.tell('routing', {});
}

/**
 * Asks somebody to take over a span of one's own.
 *
 * @returns the id of the swap
 * @throws Refusal `not-found`, `invalid` when the asker does not have the watch throughout the span
 */
export async function askSwap(
  { db, clock, changes, delivery }: SwapContext,
  rotaId: number,
  { from, to, askedOf }: Range & { readonly askedOf: number },
  by: Person
): Promise<number> {
  const { rota } = await requireRota(db, rotaId);
  const now = clock.now();
  refuseSpan({ from, to }, now);
  await requirePerson(db, askedOf);
  if (askedOf === by.id) throw invalid('You cannot swap with yourself.', 'askedOf');
  const overrides = (await overridesIn(db, { from, to })).filter((one) => one.rotaId === rotaId);
  if (shiftsIn(rota, overrides, { from, to }).some(({ personId }) => personId !== by.id))
    throw invalid('You do not have the watch throughout this time.', 'from');
  const id = await db.transaction(async (within) => {
    const made = await insertSwap(within, { rotaId, from, to, askedBy: by.id ?? 0, askedOf, askedAt: now });
    const says = `${by.displayName} asks you to take over the watch for ${rota.name}.`;
    await notifyPerson(within, delivery, askedOf, swapNote(says, 'Accept or decline it in Bussola', { from, to }), now);
    return made;
  });
  changes.tell('routing', {});
  return id;
}

/**
 * Answers a swap: whoever was asked accepts or declines it, whoever asked withdraws it. One that is accepted becomes an override.
 *
 * @throws Refusal `not-found`, `not-allowed` for anybody else, `invalid` when the asker does not have that watch any more
 */
export async function answerSwap(
  { db, clock, changes, delivery }: SwapContext,
  id: number,
  answer: 'accepted' | 'declined' | 'withdrawn',
  by: Person
): Promise<void> {
  const at = clock.now();
  await db.transaction(async (within) => {
    const swap = await lockSwap(within, id);
    if (swap === null)
      throw new Refusal('not-found', 'There is no such swap.', 'It may have been answered meanwhile. See the rotas.');
    if (by.id !== (answer === 'withdrawn' ? swap.askedBy : swap.askedOf))
      throw new Refusal(
        'not-allowed',
        'Somebody else was asked.',
        'Only they can answer, and only the asker can withdraw.'
      );
    if (answer === 'accepted') await takeOver(within, swap, { at, by: by.displayName });
    await noteAnswer(within, id, answer, at);
    if (answer === 'withdrawn') return;
    const says = `${by.displayName} has ${answer === 'accepted' ? 'agreed' : 'declined'} to take over your watch.`;
    await notifyPerson(within, delivery, swap.askedBy, swapNote(says, 'See the rotas in Bussola', swap), at);
  });
  changes.tell('routing', {});
}

const swapNote = (says: string, linkText: string, { from, to }: Range) => ({
  ...{ kind: 'note' as const, subject: says.replace(/\.$/, ''), sentence: says, path: '/rotas', linkText },
  rows: [
    { name: 'From', at: from },
    { name: 'To', at: to }
  ]
});

async function takeOver(
  within: Queryable,
  { rotaId, from, to, askedBy, askedOf }: Swap,
  written: { readonly at: Instant; readonly by: string }
): Promise<void> {
  const { rota } = await requireRota(within, rotaId);
  const span = { from: Math.max(from, written.at) as Instant, to };
  if (span.from >= to) throw invalid('The time of this swap is over.', 'from');
  const overrides = (await overridesIn(within, span)).filter((one) => one.rotaId === rotaId);
  if (shiftsIn(rota, overrides, span).some(({ personId }) => personId !== askedBy))
    throw invalid('Whoever asked does not have the watch throughout this time any more.', 'from');
  await insertOverride(within, { rotaId, ...span, personId: askedOf, reason: 'swapped' }, written);
}

export async function requireRota(db: Queryable, id: number): Promise<StoredRota> {
  const rota = await rotaById(db, id);
  if (rota === null) throw noSuchRota();
  return rota;
}

async function refuseUnknown(db: Queryable, rota: Rota, id: number | null): Promise<void> {
  const people = await allPeople(db);
  const rotas = await allRotas(db);
  const wanted = rota.layers.flatMap((layer) => layer.people);
  if (!wanted.every((person) => people.some((one) => one.id === person)))
    throw invalid('Somebody of this rota is not there any more.', 'layers');
  if (rotas.some((one) => one.id !== id && one.rota.name === rota.name))
    throw new Refusal('name-taken', `There is a rota called “${rota.name}” already.`, 'Choose another name.', {
      path: ['name']
    });
}

async function requirePerson(db: Queryable, id: number): Promise<void> {
  if (!(await allPeople(db)).some((person) => person.id === id)) throw invalid('There is no such person.', 'personId');
}

function refuseSpan({ from, to }: Range, now: Instant): void {
  if (to <= from) throw invalid('The time ends before it begins.', 'to');
  if (to <= now) throw invalid('The time is over already.', 'to');
}

const invalid = (message: string, field: string): Refusal =>
  new Refusal('invalid', message, 'Change it, then try again.', { path: [field] });

export const noSuchRota = (): Refusal =>
  new Refusal('not-found', 'There is no such rota.', 'It may have been removed. See the list of rotas.');

import { targetsOf, type Route, type Target } from '$lib/core/notify/route';
import type { Role } from '$lib/core/people/rights';
import { Refusal } from '$lib/core/problem/problem';
import type { Instant } from '$lib/core/time';
import type { Context } from '../db/context';
import type { Queryable } from '../db/pool';
import { forgetLinksOf } from '../people/links';
import type { AccountAccess } from '../people/account-right';
import { actRight } from '../people/act-access';
import { lineRight } from '../people/line-access';
import { lockAdministrators, setDisabled, setRole, type Profile } from '../people/people';
import { removeFactor } from '../people/second-factor';
import { withdrawFrom } from '../notify/waiting';
import { endSessionsOf } from '../people/sessions';
import { allRotas, changeRota } from '../rotas/rotas';
import { allRoutes, changeRoute } from '../routing/routes';
import { requireProfile } from './invite';
import { setTeamsOf } from './teams';

/** Changes what somebody may do, which teams they are in, and whose lines they may read where that is said: null for as their role says. @throws Refusal `not-found`, `in-use` for the last administrator */
export async function changePerson(
  { db, changes }: Context,
  id: number,
  {
    role,
    teamIds,
    lines,
    acts
  }: {
    readonly role: Role;
    readonly teamIds: readonly number[];
    readonly lines?: AccountAccess | null | undefined;
    readonly acts?: AccountAccess | null | undefined;
  }
): Promise<Profile> {
  await db.transaction(async (within) => {
    if (role !== 'administrator') await refuseLast(within, id);
    const { disabledAt } = await requireProfile(within, id);
    if (disabledAt !== null) throw new Refusal('invalid', 'They are disabled.', 'Enable them first.');
    await setRole(within, id, role);
    await setTeamsOf(within, id, teamIds);
    if (lines !== undefined) await lineRight.set(within, id, lines);
    if (acts !== undefined) await actRight.set(within, id, acts);
  });
  changes.tell('routing', {});
  return requireProfile(db, id);
}

/**
 * Disables somebody: they are signed out, cannot sign in, and are notified of nothing any more. Their turns in rotas, shifts to come, and places in routes go to somebody else.
 *
 * @param successorId who gets them; null when there is nothing to hand over
 * @throws Refusal `not-found`, `in-use` for the last administrator, and naming the rotas and routes when nobody gets them; `invalid` for a successor who is not there
 */
export async function disablePerson(
  { db, clock, changes }: Context,
  id: number,
  successorId: number | null,
  by: string
): Promise<void> {
  const ended = await db.transaction(async (within) => {
    await refuseLast(within, id);
    const person = await requireProfile(within, id);
    if (person.disabledAt !== null) return [];
    if (successorId !== null) {
      const { disabledAt } = await requireProfile(within, successorId);
      if (disabledAt !== null || successorId === id)
        throw new Refusal('invalid', 'Whoever gets the shifts cannot have them.', 'Choose somebody else.');
    }
    const at = clock.now();
    await handOver(within, id, successorId, { at, by });
    await within.rows(
      `update rota_swaps set state = 'withdrawn', answered_at = $2 where state = 'asked' and (asked_by = $1 or asked_of = $1)`,
      [id, at]
    );
    await within.rows('delete from calendar_links where person_id = $1', [id]);
    await withdrawFrom(within, id);
    await within.rows('delete from team_members where person_id = $1', [id]);
    await forgetLinksOf(within, id);
    await setDisabled(within, id, at);
    return endSessionsOf(within, id, null);
  });
  for (const key of ended) changes.tell('session', { key });
  changes.tell('routing', {});
}

/** Lets somebody in again; what was handed over stays with whoever has it. @throws Refusal `not-found` */
export async function enablePerson({ db, changes }: Context, id: number): Promise<void> {
  await requireProfile(db, id);
  await setDisabled(db, id, null);
  changes.tell('routing', {});
}

/** Signs somebody out everywhere. @returns how many sessions ended */
export async function signOutEverywhere({ db, changes }: Context, id: number): Promise<number> {
  const ended = await endSessionsOf(db, id, null);
  for (const key of ended) changes.tell('session', { key });
  return ended.length;
}

/** Takes the second factor from somebody who lost it: they sign in by their password alone until they set up another. @throws Refusal `not-found` */
export async function takeFactorFrom({ db }: Context, id: number): Promise<void> {
  await requireProfile(db, id);
  await db.transaction((within) => removeFactor(within, id));
}

async function refuseLast(within: Queryable, id: number): Promise<void> {
  const administrators = await lockAdministrators(within);
  if (administrators.length === 1 && administrators[0] === id)
    throw new Refusal('in-use', 'They are the last administrator.', 'Make somebody else an administrator first.');
}

/** Hands turns, shifts to come and places in routes over. */
async function handOver(
  within: Queryable,
  from: number,
  to: number | null,
  written: { readonly at: Instant; readonly by: string }
): Promise<void> {
  const rotas = (await allRotas(within)).filter(({ rota }) => rota.layers.some(({ people }) => people.includes(from)));
  const routes = (await allRoutes(within)).filter(({ route }) => targetsOf(route).some((one) => isOf(one, from)));
  const overrides = await within.rows('select 1 from rota_overrides where person_id = $1 and to_at > $2', [
    from,
    written.at
  ]);
  if (to === null) {
    const used = [
      ...rotas.map(({ rota }) => `the rota ${rota.name}`),
      ...routes.map(({ route }) => `the route ${route.name}`),
      ...(overrides.length > 0 ? ['shifts to come'] : [])
    ];
    if (used.length > 0)
      throw new Refusal('in-use', `They are in ${used.join(', ')}.`, 'Say who gets their shifts and messages.');
    return;
  }
  for (const { id, rota, version } of rotas) {
    const layers = rota.layers.map((layer) => ({
      ...layer,
      people: layer.people.map((one) => (one === from ? to : one))
    }));
    await changed(changeRota(within, id, { ...rota, layers }, version, written));
  }
  for (const { id, route, version } of routes)
    await changed(changeRoute(within, id, inPlaceOf(route, from, to), version, written));
  await within.rows('update rota_overrides set person_id = $2 where person_id = $1 and to_at > $3', [
    from,
    to,
    written.at
  ]);
}

const isOf = (target: Target, personId: number): boolean => target.kind === 'person' && target.personId === personId;

/** A route that notifies somebody in the place of somebody else, nobody twice in a step. */
function inPlaceOf(route: Route, from: number, to: number): Route {
  const steps = route.steps.map((step) => {
    const others = step.notify.filter((one) => !isOf(one, from) && !isOf(one, to));
    const theirs = step.notify.filter((one) => isOf(one, from) || isOf(one, to));
    const by = [...new Set(theirs.flatMap((one) => (one.kind === 'channel' ? [] : one.by)))];
    return theirs.some((one) => isOf(one, from))
      ? { ...step, notify: [...others, { kind: 'person' as const, personId: to, by }] }
      : step;
  });
  return { ...route, steps };
}

/** @throws Refusal when somebody changed it at the same moment */
async function changed(saved: Promise<unknown>): Promise<void> {
  if ((await saved) === null)
    throw new Refusal('changed-meanwhile', 'A rota or a route was changed meanwhile.', 'Try again.');
}

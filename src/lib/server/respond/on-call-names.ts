import type { FileChannel, FileRoute, FileRota, FileTarget } from '$lib/core/notify/on-call-file';
import { routeSchema, type Route, type Target } from '$lib/core/notify/route';
import { rotaSchema, type Rota } from '$lib/core/rota';
import type { Queryable } from '../db/pool';
import { allChannels, type Channel } from '../notify/channels';
import { allPeople, type Person } from '../people/people';
import { allGroups, type Group } from '../query/groups/groups';
import { allRotas, type StoredRota } from '../rotas/rotas';
import { allRoutes, type StoredRoute } from '../routing/routes';
import { allTeams } from '../workspace/teams';

/** All that a file of routes, rotas and channels can name. */
export interface OnCallWorld {
  readonly channels: readonly Channel[];
  readonly rotas: readonly StoredRota[];
  readonly routes: readonly StoredRoute[];
  readonly people: readonly Person[];
  readonly groups: readonly Group[];
  readonly teams: readonly { readonly id: number; readonly name: string }[];
}

export async function onCallWorld(db: Queryable): Promise<OnCallWorld> {
  // One after the other: within a transaction there is one connection.
  return {
    channels: await allChannels(db),
    rotas: await allRotas(db),
    routes: await allRoutes(db),
    people: await allPeople(db),
    groups: await allGroups(db),
    teams: await allTeams(db)
  };
}

/** What is named by its id, or an id that nothing has any more. */
const nameOf = (all: readonly { readonly id: number; readonly name: string }[], id: number): string =>
  all.find((one) => one.id === id)?.name ?? `gone ${id}`;

/** A channel as files hold it; null for devices, which are set up on themselves. */
export function fileChannel(
  { name, kind, address, settings, personId }: Channel,
  { people }: OnCallWorld
): FileChannel | null {
  if (kind === 'push') return null;
  return {
    ...{ name, kind },
    ...(kind !== 'chat-hook' && kind !== 'topic' && { address }),
    ...settings,
    ...(personId !== null && { person: nameOf(people, personId) })
  };
}

export const fileRota = (
  { rota: { teamId, layers, ...rest } }: StoredRota,
  { people, teams }: OnCallWorld
): FileRota => ({
  ...rest,
  ...(teamId !== null && { team: nameOf(teams, teamId) }),
  layers: layers.map((layer) => ({ ...layer, people: layer.people.map((id) => nameOf(people, id)) }))
});

export function fileRoute({ route, place, isLast }: StoredRoute, world: OnCallWorld): FileRoute {
  const { groupIds, ...when } = route.when;
  const rotas = world.rotas.map(({ id, rota }) => ({ id, name: rota.name }));
  const targetOf = (target: Target): FileTarget => {
    if (target.kind === 'channel') return { channel: nameOf(world.channels, target.channelId) };
    return target.kind === 'rota'
      ? { rota: nameOf(rotas, target.rotaId), by: target.by }
      : { person: nameOf(world.people, target.personId), by: target.by };
  };
  return {
    ...route,
    place: isLast ? 'last' : place === null ? 'named' : 'list',
    when: { ...when, groups: groupIds.map((id) => nameOf(world.groups, id)) },
    steps: route.steps.map(({ after, notify }) => ({ after, notify: notify.map(targetOf) }))
  };
}

/** What of a file is not here, in sentences, gathered while it is read. */
export class Missing {
  readonly problems: string[] = [];

  /** The id of what has a name; 0, and a problem, where nothing or more than one has. */
  idOf(what: string, name: string, all: readonly { readonly id: number; readonly name: string }[]): number {
    const found = all.filter((one) => one.name === name);
    if (found.length === 1) return (found[0] as { id: number }).id;
    this.problems.push(`There is no ${what} “${name}” here${found.length > 1 ? ', but several' : ''}.`);
    return 0;
  }
}

/** A rota of a file as it is stored here. */
export function rotaOf(
  { team, layers, ...rest }: FileRota,
  { people, teams }: OnCallWorld,
  missing: Missing
): Rota | null {
  const teamId = team === undefined ? null : missing.idOf('team', team, teams);
  const rota = {
    ...{ ...rest, teamId },
    layers: layers.map((layer) => ({
      ...layer,
      people: layer.people.map((name) => missing.idOf('person', name, people))
    }))
  };
  return missing.problems.length > 0 ? null : checked(rotaSchema, rota, missing);
}

/** A route of a file as it is stored here. */
export function routeOfFile(
  { place: _, when, steps, ...rest }: FileRoute,
  world: OnCallWorld,
  missing: Missing
): Route | null {
  const { groups, ...conditions } = when;
  const rotas = world.rotas.map(({ id, rota }) => ({ id, name: rota.name }));
  const targetOf = (target: FileTarget): Target => {
    if ('channel' in target)
      return { kind: 'channel', channelId: missing.idOf('channel', target.channel, world.channels) };
    return 'rota' in target
      ? { kind: 'rota', rotaId: missing.idOf('rota', target.rota, rotas), by: target.by }
      : { kind: 'person', personId: missing.idOf('person', target.person, world.people), by: target.by };
  };
  const route = {
    ...rest,
    when: { ...conditions, groupIds: groups.map((name) => missing.idOf('group', name, world.groups)) },
    steps: steps.map(({ after, notify }) => ({ after, notify: notify.map(targetOf) }))
  };
  return missing.problems.length > 0 ? null : checked(routeSchema, route, missing);
}

/** What the schema of the thing itself says, such as that steps come one after the other. */
function checked<Thing>(
  schema: { safeParse(value: unknown): { success: boolean; data?: Thing; error?: { issues: { message: string }[] } } },
  value: unknown,
  missing: Missing
): Thing | null {
  const read = schema.safeParse(value);
  for (const { message } of read.error?.issues ?? []) missing.problems.push(message);
  return read.data ?? null;
}

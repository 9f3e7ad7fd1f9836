import equal from 'fast-deep-equal';
import type { FileFormat } from '$lib/core/forms/file';
import { addressedChannelSchema, newChannelSchema } from '$lib/core/notify';
import { onCallText, type FileChannel, type OnCallFile } from '$lib/core/notify/on-call-file';
import { Refusal } from '$lib/core/problem/problem';
import type { Queryable } from '../db/pool';
import { draftOf, insertChannel, type Channel } from '../notify/channels';
import { confirmRequest } from '../notify/confirm';
import { maySend, type ChannelContext, type Person } from '../notify/manage-channels';
import type { ParserPool } from '../parsing/parser-pool';
import { changeRota, insertRota } from '../rotas/rotas';
import { allRoutes, changeRoute, insertRoute, isListed, lockRoutes, orderRoutes } from '../routing/routes';
import {
  fileChannel,
  fileRota,
  fileRoute,
  Missing,
  onCallWorld,
  rotaOf,
  routeOfFile,
  type OnCallWorld
} from './on-call-names';

interface FileContext extends ChannelContext {
  readonly parsers: ParserPool;
}

/** What applying a file would do to one thing. */
export interface PlannedThing {
  readonly kind: 'channel' | 'rota' | 'route';
  readonly name: string;
  /** What would change; null when a new one would be made. */
  readonly id: number | null;
  /** Nothing when it is the same already. */
  readonly differences: readonly string[];
  /** Why it cannot be applied, in words. */
  readonly problems: readonly string[];
}

export interface OnCallPlan {
  readonly things: readonly PlannedThing[];
  /** Whether the routes of the list would come into another order. */
  readonly reorders: boolean;
}

/** Channels without secrets, rotas, and routes in their order, as the text of a file. */
export async function onCallAsFile(db: Queryable, format: FileFormat): Promise<string> {
  const world = await onCallWorld(db);
  return onCallText(
    {
      ...{ kind: 'on-call', version: 1 },
      channels: world.channels.flatMap((channel) => fileChannel(channel, world) ?? []),
      rotas: world.rotas.map((rota) => fileRota(rota, world)),
      routes: world.routes.map((route) => fileRoute(route, world))
    },
    format
  );
}

/** Says what applying a file would do; nothing is changed. What the file does not name stays. @throws Refusal `unreadable`, with the lines at fault */
export async function planOnCallFile(context: FileContext, text: string): Promise<OnCallPlan> {
  return planned(await readFile(context, text), await onCallWorld(context.db));
}

/**
 * Does what {@link planOnCallFile} says, all of it or nothing. New channels are asked to confirm, as ever.
 *
 * @throws Refusal as it does, `unreadable` where something of it cannot be applied, `too-many-requests` for more new channels than somebody may ask at a time
 */
export async function applyOnCallFile(
  context: FileContext,
  text: string,
  by: Person
): Promise<OnCallPlan & { readonly applied: number }> {
  const file = await readFile(context, text);
  const { db, clock, secrets, delivery, changes, confirmations } = context;
  const written = { at: clock.now(), by: by.displayName };
  const done = await db.transaction(async (within) => {
    await lockRoutes(within);
    const before = await onCallWorld(within);
    const plan = planned(file, before);
    const amiss = plan.things.find(({ problems }) => problems.length > 0);
    if (amiss)
      throw new Refusal(
        'unreadable',
        `The ${amiss.kind} “${amiss.name}” cannot be applied: ${amiss.problems[0]} Nothing was changed.`,
        'Correct the file, or make here what it names.'
      );
    const toDo = (kind: PlannedThing['kind'], name: string) =>
      plan.things.find(
        (one) => one.kind === kind && one.name === name && (one.id === null || one.differences.length > 0)
      );
    let applied = 0;
    for (const channel of file.channels) {
      if (toDo('channel', labelOf(channel)) === undefined) continue;
      const draft = newChannelSchema.parse(channel);
      if (draft.kind !== 'topic') await maySend(confirmations, by, draft.address);
      const made = await insertChannel(within, secrets, draftOf(draft), written);
      if (made.kind !== 'topic') await delivery.enqueue(within, confirmRequest(made.id, written.at));
      applied++;
    }
    for (const rota of file.rotas) {
      const planOf = toDo('rota', rota.name);
      if (planOf === undefined) continue;
      const known = before.rotas.find(({ id }) => id === planOf.id);
      const next = required(rotaOf(rota, before, new Missing()));
      if (known === undefined) await insertRota(within, next, written);
      else required(await changeRota(within, known.id, next, known.version, written));
      applied++;
    }
    // Routes name what was just made.
    const world = await onCallWorld(within);
    for (const route of file.routes) {
      const planOf = toDo('route', route.name);
      if (planOf === undefined) continue;
      const known = world.routes.find(({ id }) => id === planOf.id);
      const next = required(routeOfFile(route, world, new Missing()));
      if (known === undefined) await insertRoute(within, next, route.place, written);
      else required(await changeRoute(within, known.id, next, known.version, written));
      applied++;
    }
    if (plan.reorders) {
      const routes = await allRoutes(within);
      const idOf = new Map(routes.map(({ id, route }) => [route.name, id]));
      await orderRoutes(
        within,
        orderedAs(file, listedNames(routes)).flatMap((name) => idOf.get(name) ?? [])
      );
    }
    return { ...plan, applied };
  });
  changes.tell('routing', {});
  return done;
}

async function readFile({ parsers }: FileContext, text: string): Promise<OnCallFile> {
  const read = await parsers.onCallFile(text);
  if (read.kind === 'read') return read.file;
  throw new Refusal(
    'unreadable',
    'The file cannot be read as routes, rotas and channels.',
    'Correct it at the places that are named.',
    { problems: read.problems }
  );
}

function planned(file: OnCallFile, world: OnCallWorld): OnCallPlan {
  // What the file makes itself counts as there: it is made before what names it.
  const withFile: OnCallWorld = {
    ...world,
    channels: [...world.channels, ...file.channels.filter((one) => channelOf(one, world) === undefined).map(asChannel)],
    rotas: [
      ...world.rotas,
      ...file.rotas
        .filter(({ name }) => !world.rotas.some(({ rota }) => rota.name === name))
        .map(({ name }, index) => ({ id: -1 - index, rota: { name } }) as OnCallWorld['rotas'][number])
    ]
  };
  const channels = file.channels.map((one) => plannedChannel(one, world));
  const rotas = file.rotas.map((one): PlannedThing => {
    const known = world.rotas.find(({ rota }) => rota.name === one.name);
    const missing = new Missing();
    rotaOf(one, world, missing);
    const differences = known === undefined ? [] : differencesOf(fileRota(known, world), one);
    return { kind: 'rota', name: one.name, id: known?.id ?? null, differences, problems: missing.problems };
  });
  const routes = file.routes.map((one): PlannedThing => {
    const known = world.routes.find(({ route }) => route.name === one.name);
    const missing = new Missing();
    routeOfFile(
      one,
      { ...withFile, rotas: withFile.rotas.map(positive), channels: withFile.channels.map(positive) },
      missing
    );
    const was = known && fileRoute(known, world);
    const problems = [
      ...missing.problems,
      ...(was !== undefined && was.place !== one.place
        ? [`It stands elsewhere here (${was.place}, not ${one.place}): remove it first, or say so in the file.`]
        : []),
      ...(known === undefined && one.place === 'last' && world.routes.some(({ isLast }) => isLast)
        ? ['There is a last route of another name: give it this name first.']
        : [])
    ];
    const differences = was === undefined ? [] : differencesOf(was, one);
    return { kind: 'route', name: one.name, id: known?.id ?? null, differences, problems };
  });
  const listed = listedNames(world.routes);
  // New ones come to the end of the list first.
  const added = file.routes
    .filter(({ name, place }) => place === 'list' && !listed.includes(name))
    .map(({ name }) => name);
  const all = [...listed, ...added];
  return { things: [...channels, ...rotas, ...routes], reorders: !equal(orderedAs(file, all), all) };
}

/** What the file makes has no id yet: any that is one will do to check it. */
const positive = <Thing extends { readonly id: number }>(thing: Thing): Thing => ({ ...thing, id: Math.abs(thing.id) });

/** The routes of the list as the file orders those that it names, at the places that these have; all others stay where they are. */
function orderedAs({ routes }: OnCallFile, listed: readonly string[]): string[] {
  const wanted = routes.map(({ name }) => name).filter((name) => listed.includes(name));
  const named = new Set(wanted);
  return listed.map((name) => (named.has(name) ? (wanted.shift() as string) : name));
}

const listedNames = (routes: OnCallWorld['routes']): string[] =>
  routes.filter((one) => isListed(one) && !one.isLast).map(({ route }) => route.name);

const channelOf = (one: FileChannel, { channels }: OnCallWorld): Channel | undefined =>
  channels.find(({ kind, name }) => kind === one.kind && name === one.name);
const asChannel = ({ name, kind }: FileChannel, index: number) => ({ id: -1 - index, name, kind }) as Channel;
const labelOf = ({ kind, name }: FileChannel): string => `${name} (${kind})`;

function plannedChannel(one: FileChannel, world: OnCallWorld): PlannedThing {
  const known = channelOf(one, world);
  const base = { kind: 'channel', name: labelOf(one), id: known?.id ?? null } as const;
  if (known !== undefined) {
    const differences = differencesOf(fileChannel(known, world) ?? {}, one);
    const problems = differences.map(
      (text) => `A channel is not changed by a file (${text}): remove it here, or change the file.`
    );
    return { ...base, differences, problems };
  }
  if (one.kind === 'chat-hook')
    return {
      ...base,
      differences: [],
      problems: ['Its address is a secret and not in the file: add it by hand under this name.']
    };
  const read = one.kind === 'topic' ? newChannelSchema.safeParse(one) : addressedChannelSchema.safeParse(one);
  const taken = world.channels.some(({ address }) => address === one.address);
  return {
    ...{ ...base, differences: [] },
    problems: [
      ...(read.error?.issues ?? []).map(({ message, path }) => `${path.join('.')}: ${message}`),
      // Whoever could name an address as somebody else's would read what is sent to them.
      ...(one.person === undefined ? [] : ['It belongs to a person: people add their own addresses in their profile.']),
      ...(taken ? [`Another channel here has the address ${one.address ?? ''}.`] : [])
    ]
  };
}

/** What is different between two things of files, key by key, in words. */
function differencesOf(was: object, becomes: object): string[] {
  const [from, to] = [was as Record<string, unknown>, becomes as Record<string, unknown>];
  return [...new Set([...Object.keys(from), ...Object.keys(to)])]
    .filter((key) => !equal(plain(from[key]), plain(to[key])))
    .map((key) => `${key}: ${shown(from[key])} → ${shown(to[key])}`);
}

/** As a file holds it: what is undefined is not there. */
const plain = (value: unknown): unknown => (value === undefined ? undefined : JSON.parse(JSON.stringify(value)));
const mostShown = 200;
function shown(value: unknown): string {
  if (value === undefined) return 'none';
  const text = typeof value === 'string' ? value : JSON.stringify(value);
  return text.length <= mostShown ? text : `${text.slice(0, mostShown)}…`;
}

/** What a plan without problems has. */
function required<Thing>(thing: Thing | null): Thing {
  if (thing === null)
    throw new Refusal(
      'changed-meanwhile',
      'Something of it was changed meanwhile.',
      'See what would change once more.'
    );
  return thing;
}

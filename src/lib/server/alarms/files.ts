import equal from 'fast-deep-equal';
import { z } from 'zod';
import { alarmDifferences, alarmSentence, type AlarmDefinition } from '$lib/core/alarm';
import { alarmsFile, type FileAlarm, type FileNames } from '$lib/core/alarm/file';
import type { FileFormat } from '$lib/core/forms/file';
import { Refusal } from '$lib/core/problem/problem';
import type { Queryable } from '../db/pool';
import { allMetrics } from '../inventory/metrics';
import { allRoutes, type StoredRoute } from '../routing/routes';
import type { ParserPool } from '../parsing/parser-pool';
import { signalProblem } from '../query/query';
import { allAlarms, type Alarm } from './alarms';
import { checkedAlarm, storeAlarm, type AlarmContext } from './save-alarm';

interface FileContext extends AlarmContext {
  readonly parsers: ParserPool;
}

/** Body of `POST /api/v1/alarms/plan` and `…/apply`. */
export const alarmFileBody = z.strictObject({
  /** One that is too long is reported by the plan. */
  text: z.string()
});

/** What applying a file would do to one alarm. */
export interface PlannedAlarm {
  readonly name: string;
  /** The alarm that would change; null when a new one would be made. */
  readonly id: number | null;
  readonly sentence: string;
  /** Nothing when it is the same already. */
  readonly differences: readonly string[];
  /** Why it cannot be applied, in words. */
  readonly problems: readonly string[];
}

export interface AlarmFilePlan {
  readonly alarms: readonly PlannedAlarm[];
}

/** The text of a file of alarms: those of some ids, or all. */
export async function alarmsAsFile(db: Queryable, ids: readonly number[] | null, format: FileFormat): Promise<string> {
  const { alarms, names } = await known(db);
  const wanted = alarms.filter(({ id }) => ids === null || ids.includes(id));
  if (wanted.length === 0)
    throw new Refusal('not-found', 'There is no alarm to write to a file.', 'Choose some that exist.');
  return alarmsFile(
    wanted.map(({ definition }) => definition),
    names,
    format
  );
}

/**
 * Says what applying a file would do; nothing is changed. Alarms are told apart by their names; those that the file does not name stay.
 *
 * @throws Refusal `unreadable`, with the lines at fault
 */
export async function planAlarmFile(context: FileContext, text: string): Promise<AlarmFilePlan> {
  return { alarms: (await planned(context, text)).map(({ planned: plan }) => plan) };
}

/**
 * Does what {@link planAlarmFile} says, all of it or nothing.
 *
 * @throws Refusal as it does, and `alarm-parts`, `route-missing` where something of it is not here
 */
export async function applyAlarmFile(
  context: FileContext,
  text: string,
  by: string
): Promise<AlarmFilePlan & { readonly applied: readonly { readonly id: number; readonly name: string }[] }> {
  const all = await planned(context, text);
  const [amiss] = all.filter(({ planned: { problems } }) => problems.length > 0);
  if (amiss)
    throw new Refusal(
      'unreadable',
      `“${amiss.planned.name}” cannot be applied: ${amiss.planned.problems[0]} Nothing was changed.`,
      'Correct the file, or make here what it names.'
    );
  const changing = all.filter(({ planned: { id, differences } }) => id === null || differences.length > 0);
  const { db, clock, changes } = context;
  const inOrder = partsFirst(changing);
  const checked: AlarmDefinition[] = [];
  // The parts of combined alarms are resolved as they are stored: they may name another one of the file.
  for (const { file, world, current } of inOrder)
    checked.push(
      await checkedAlarm(
        context,
        definitionOf(file, world, () => 1),
        current?.definition ?? null
      )
    );
  const stored = await db.transaction(async (within) => {
    const ids = new Map<string, number>();
    const done: { id: number; name: string }[] = [];
    for (const [position, { file, planned: plan, world }] of inOrder.entries()) {
      const { combines } = definitionOf(file, world, (name) => {
        const id = ids.get(name) ?? world.idOf(name);
        if (id === undefined) throw new Error(`applyAlarmFile: “${name}” was planned and is not stored`);
        return id;
      });
      const definition = { ...(checked[position] as AlarmDefinition), ...(combines && { combines }) };
      const { id } = await storeAlarm(within, plan.id, definition, by, clock.now());
      ids.set(file.name, id);
      done.push({ id, name: file.name });
    }
    return done;
  });
  for (const { id } of stored) changes.tell('definition', { alarmId: id });
  return { alarms: all.map(({ planned: plan }) => plan), applied: stored };
}

interface World {
  readonly alarms: readonly Alarm[];
  readonly routes: readonly StoredRoute[];
  readonly names: FileNames;
  /** The alarm of a name; undefined when there is none, or more than one. */
  readonly idOf: (name: string) => number | undefined;
}

async function known(db: Queryable): Promise<World> {
  const [alarms, routes] = await Promise.all([allAlarms(db), allRoutes(db)]);
  return {
    alarms,
    routes,
    names: {
      routeOf: (id) => routes.find((route) => route.id === id)?.route.name ?? `route ${id}`,
      alarmOf: (id) => alarms.find((alarm) => alarm.id === id)?.definition.name ?? `alarm ${id}`
    },
    idOf: (name) => {
      const found = alarms.filter(({ definition }) => definition.name === name);
      return found.length === 1 ? found[0]?.id : undefined;
    }
  };
}

interface One {
  readonly file: FileAlarm;
  readonly planned: PlannedAlarm;
  /** The alarm of its name, as it is now. */
  readonly current: Alarm | undefined;
  readonly world: World;
}

async function planned(context: FileContext, text: string): Promise<One[]> {
  const { db, parsers } = context;
  const read = await parsers.alarmFile(text);
  if (read.kind === 'unreadable')
    throw new Refusal('unreadable', 'The file cannot be read as alarms.', 'Correct it at the places that are named.', {
      problems: read.problems
    });
  const [world, metrics] = await Promise.all([known(db), allMetrics(db)]);
  const wordsOf = (name: string) => metrics.find((metric) => metric.name === name);
  const inFile = new Set(read.alarms.map(({ name }) => name));
  // Alarms that are not here yet are known by numbers of their own until they are stored.
  const names = read.alarms.map(({ name }) => name);
  const idOf = (name: string) => world.idOf(name) ?? -1 - names.indexOf(name);
  const words = {
    wordsOf,
    ...world.names,
    alarmOf: (id: number) => (id < 0 ? (names[-1 - id] ?? 'an alarm that is not here') : world.names.alarmOf(id))
  };
  const found: One[] = [];
  for (const file of read.alarms) {
    const same = world.alarms.filter(({ definition }) => definition.name === file.name);
    const [current] = same;
    const definition = definitionOf(file, world, idOf);
    found.push({
      file,
      current,
      world,
      planned: {
        name: file.name,
        id: current?.id ?? null,
        sentence: alarmSentence(definition, wordsOf),
        differences: current
          ? alarmDifferences(current.definition, withKnownUnit(definition, current.definition), words)
          : [],
        problems: [
          ...(same.length > 1 ? [`${same.length} alarms here have this name: rename all but one.`] : []),
          ...unknownOf(file, world, inFile),
          ...(await signalProblems(db, definition))
        ]
      }
    });
  }
  return found;
}

/** A signal that says no unit has the one that was found for it here when it was saved. */
function withKnownUnit(definition: AlarmDefinition, { signal: known }: AlarmDefinition): AlarmDefinition {
  const { signal } = definition;
  if (!signal || signal.unit !== undefined || !known) return definition;
  const { unit: _, ...bare } = known;
  return equal(signal, bare) ? { ...definition, signal: known } : definition;
}

function unknownOf({ route, combines }: FileAlarm, world: World, inFile: ReadonlySet<string>): string[] {
  const parts = (combines?.parts ?? []).flatMap((part) => ('alarm' in part ? [part.alarm] : []));
  return [
    ...(route === null || routeNamed(world, route) !== undefined
      ? []
      : [`There is no route “${route}” here, or more than one.`]),
    ...parts
      .filter((name) => !inFile.has(name) && world.idOf(name) === undefined)
      .map((name) => `There is no alarm “${name}” here, or more than one.`)
  ];
}

/** The route of a name; undefined when there is none, or more than one. */
function routeNamed({ routes }: World, name: string): number | undefined {
  const [one, ...others] = routes.filter(({ route }) => route.name === name);
  return others.length > 0 ? undefined : one?.id;
}

async function signalProblems(db: Queryable, { signal, combines }: AlarmDefinition): Promise<string[]> {
  const signals = signal
    ? [signal]
    : (combines?.parts ?? []).flatMap((part) => ('signal' in part ? [part.signal] : []));
  const problems: string[] = [];
  for (const one of signals) {
    const problem = await signalProblem(db, one);
    if (problem) problems.push(problem.message);
  }
  return problems;
}

/** An alarm of a file as it is stored here; a route that is not here is left out, and was reported. */
function definitionOf(
  { combines, route, ...rest }: FileAlarm,
  world: World,
  idOf: (name: string) => number
): AlarmDefinition {
  return {
    ...rest,
    route: route === null ? null : (routeNamed(world, route) ?? null),
    ...(combines && {
      combines: {
        ...combines,
        parts: combines.parts.map((part) => ('alarm' in part ? { alarm: idOf(part.alarm) } : part))
      }
    })
  };
}

/** Alarms after those of the file that they combine. @throws Refusal when some go round in a circle */
function partsFirst(all: readonly One[]): One[] {
  const ordered: One[] = [];
  let waiting = [...all];
  while (waiting.length > 0) {
    const names = new Set(waiting.map(({ file }) => file.name));
    const ready = waiting.filter(({ file }) =>
      (file.combines?.parts ?? []).every((part) => !('alarm' in part) || !names.has(part.alarm))
    );
    if (ready.length === 0)
      throw new Refusal(
        'alarm-parts',
        `${[...names].map((name) => `“${name}”`).join(' and ')} combine each other in a circle. Nothing was changed.`,
        'Leave one of them out.'
      );
    ordered.push(...ready);
    waiting = waiting.filter((one) => !ready.includes(one));
  }
  return ordered;
}

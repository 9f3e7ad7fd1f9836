import type { ActKind, ActOrder, StandInAct } from './act-kinds';
import type { ProviderState } from './state';

/** What can be done with one kind of resource. */
export interface Abilities {
  readonly kinds: readonly ActKind[];
  readonly sizes?: readonly string[];
  readonly count?: { readonly usual: number; readonly least: number; readonly most: number };
  /** Metrics that say how many there are. */
  readonly counted?: readonly string[];
}

export const machineSizes = ['small', 'medium', 'large', 'huge'];

/** The name under which a count is stored beside stresses. */
export const countMetric = '#count';

const second = 1000;
/** How long each takes, ms. */
const lengths: Readonly<Record<ActKind, number>> = {
  restart: 60 * second,
  stop: 20 * second,
  start: 40 * second,
  size: 90 * second,
  count: 30 * second
};
/** Long after everything. */
const never = 32_503_680_000_000;

const lastOf = (state: ProviderState, resource: string, kinds: readonly ActKind[]): StandInAct | undefined =>
  state.acts.findLast((one) => one.resource === resource && kinds.includes(one.kind) && !one.fails);

export const isStopped = (state: ProviderState, resource: string): boolean =>
  lastOf(state, resource, ['stop', 'start', 'restart'])?.kind === 'stop';
export const sizeNow = (state: ProviderState, resource: string): string =>
  lastOf(state, resource, ['size'])?.size ?? 'medium';
export const countNow = (state: ProviderState, resource: string, { count }: Abilities): number =>
  lastOf(state, resource, ['count'])?.count ?? count?.usual ?? 0;

/** Why something cannot be done; null when it can. */
export function refusalOf(state: ProviderState, abilities: Abilities, order: ActOrder): string | null {
  const { resource, kind, size, count } = order;
  if (!abilities.kinds.includes(kind)) return `It is of a kind that has no ${kind}.`;
  const stopped = isStopped(state, resource);
  if (kind === 'start' && !stopped) return 'It is running.';
  if (kind !== 'start' && kind !== 'count' && stopped) return 'It is stopped.';
  if (kind === 'size' && !abilities.sizes?.includes(size ?? '')) return `There is no size ${size ?? ''}.`;
  const { least, most } = abilities.count ?? { least: 0, most: 0 };
  if (kind === 'count' && !(count !== undefined && count >= least && count <= most))
    return `The count is from ${least} to ${most}.`;
  return null;
}

/** What would come of it, in sentences. */
export function foretold(state: ProviderState, abilities: Abilities, order: ActOrder): string[] {
  switch (order.kind) {
    case 'restart':
      return ['It answers nothing for about a minute.', 'What it holds in memory is lost.'];
    case 'stop':
      return ['It answers nothing until it is started.'];
    case 'start':
      return ['It answers after about 40 s.'];
    case 'size':
      return [
        `Its size changes from ${sizeNow(state, order.resource)} to ${order.size}.`,
        'It answers nothing for about 90 s.'
      ];
    case 'count':
      return [`There are ${order.count} instead of ${countNow(state, order.resource, abilities)}.`];
    default:
      throw new RangeError(`foretold: no act "${String(order.kind satisfies never)}"`);
  }
}

/** Does what was ordered, once for each key. @returns what was done under the key, now or before */
export function carryOut(
  state: ProviderState,
  abilities: Abilities,
  order: ActOrder,
  key: string,
  now: number
): StandInAct {
  const known = state.acts.find((one) => one.key === key);
  if (known) {
    state.repeatedActs++;
    return known;
  }
  const fails = state.actMode === 'failing';
  const until = now + (state.actMode === 'slow' ? 600 * second : lengths[order.kind]);
  const done: StandInAct = { ...order, key, at: now, until, fails };
  state.note(done);
  if (fails) return done;
  const { resource, kind } = order;
  if (kind === 'count') {
    for (const metric of [countMetric, ...(abilities.counted ?? [])])
      state.stress({ resource, metric, value: order.count ?? 0, from: now, until: never });
    return done;
  }
  // Whatever troubled it is over once it runs anew; a count that was set stays.
  state.relieve(resource, now, ({ metric }) => metric !== countMetric && !abilities.counted?.includes(metric));
  const silence = (end: number) => state.stress({ resource, metric: 'all', value: null, from: now, until: end });
  if (kind === 'stop') silence(never);
  else silence(until);
  return done;
}

/** How far something has come. */
export const progressOf = (
  { kind, until, fails }: StandInAct,
  now: number
): { readonly state: 'going' | 'done' | 'failed'; readonly says: string } =>
  now < until
    ? { state: 'going', says: 'It is under way.' }
    : fails
      ? { state: 'failed', says: `The ${kind} failed: nothing was changed.` }
      : { state: 'done', says: '' };

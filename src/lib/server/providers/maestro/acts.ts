import { z } from 'zod';
import type { ProviderAction } from '$lib/core/response';
import type { Clock } from '$lib/core/time';
import type { Acts } from '../port/acts';
import { exchangeJson } from '../port/exchange';
import type { ProviderAccess } from '../port/provider';
import { authorised } from './call';

const workloadSchema = z.object({ copies: z.int().min(0), least: z.int().min(0), most: z.int().min(0) });
const effectsSchema = z.object({ effects: z.array(z.string().max(300)).max(20) });
const changedSchema = z.object({ changed: z.literal(true) });

/** Changes of workloads at Maestro. They have no key: of one whose answer is lost, nobody can say what became of it. */
export function maestroActs(clock: Clock, access: ProviderAccess): Acts {
  const patch = <T>(resource: string, body: object, schema: z.ZodType<T>): Promise<T> => {
    const { method, headers } = authorised(access, 'PATCH')();
    const init = () => ({
      ...{ method, headers: { ...headers, 'content-type': 'application/json' } },
      body: JSON.stringify(body)
    });
    return exchangeJson(clock, access, pathOf(resource), init, schema);
  };
  const changeOf = (action: ProviderAction) =>
    action.kind === 'count' ? { copies: action.to } : { restart: action.kind === 'restart' };
  return {
    abilities: async (resource) => {
      if (workloadIn(resource) === null) return { kinds: [], isStopped: false, size: null, count: null };
      const found = await exchangeJson(clock, access, pathOf(resource), authorised(access), workloadSchema);
      const count = { now: found.copies, least: found.least, most: found.most };
      return { kinds: ['restart', 'count'], isStopped: false, size: null, count };
    },
    foretell: async (resource, action) =>
      (await patch(resource, { ...changeOf(action), preview: true }, effectsSchema)).effects,
    act: async (resource, action) => {
      await patch(resource, changeOf(action), changedSchema);
      return { state: 'done', says: '' };
    }
  };
}

const workloadIn = (resource: string) => /^([^/]+)\/workload\/([^/]*)\/([^/]+)$/.exec(resource);

export const isWorkload = (resource: string): boolean => workloadIn(resource) !== null;

/** @example pathOf('harbour-cluster/workload/booking/quote') // '/clusters/harbour-cluster/workloads/booking/quote' */
function pathOf(resource: string): string {
  const [, cluster = '', namespace = '', name = ''] = workloadIn(resource) ?? [];
  return `/clusters/${[cluster, 'workloads', namespace, name].map(encodeURIComponent).join('/')}`;
}

/** Reads what a workload could be changed to, which needs the right to change it and does nothing. */
export const tryChanging = (clock: Clock, access: ProviderAccess, workload: string): Promise<unknown> =>
  exchangeJson(clock, access, pathOf(workload), authorised(access), workloadSchema);

import { z } from 'zod';
import { providerActs, type ProviderAction } from '$lib/core/response';
import type { Acts } from '../port/acts';
import { ProviderError, type ProviderAccess } from '../port/provider';
import type { OstroCalls } from './call';

const possibleSchema = z.object({
  possible: z.array(z.string()).max(50),
  stopped: z.boolean(),
  sizes: z.array(z.string().min(1).max(60)).max(200),
  size: z.string().max(60).nullable()
});
const operationSchema = z.object({
  state: z.enum(['going', 'done', 'failed']),
  says: z.string().max(1000).default('')
});
const previewSchema = z.object({ effects: z.array(z.string().max(300)).max(20) });

/** Operations of Ostro: put under a name of ours, so that a second time it is the same one. */
export function ostroActs(calls: OstroCalls, access: ProviderAccess): Acts {
  const bodyOf = (uri: string, action: ProviderAction) => ({
    ...{ uri, run: action.kind },
    ...(action.kind === 'size' && { size: action.size })
  });
  const path = (name: string) => `/v2/operations/${encodeURIComponent(name)}`;
  return {
    abilities: async (uri) => {
      const { possible, stopped, sizes, size } = await tryOperations(calls, access, uri);
      const kinds = providerActs.filter((kind) => possible.includes(kind));
      return { kinds, isStopped: stopped, size: size === null ? null : { now: size, choices: sizes }, count: null };
    },
    foretell: async (uri, action) =>
      (await calls.get(access, path('preview'), previewSchema, 'PUT', { ...bodyOf(uri, action), preview: true }))
        .effects,
    act: (uri, action, key) => calls.get(access, path(key), operationSchema, 'PUT', bodyOf(uri, action)),
    outcome: async (key) => {
      try {
        return await calls.get(access, path(key), operationSchema);
      } catch (error) {
        if (error instanceof ProviderError && error.answered?.status === 404) return null;
        throw error;
      }
    }
  };
}

/** What can be run on a thing; of none, which tells of the right all the same. */
export const tryOperations = (
  calls: OstroCalls,
  access: ProviderAccess,
  uri = ''
): Promise<z.infer<typeof possibleSchema>> =>
  calls.get(access, `/v2/operations?uri=${encodeURIComponent(uri)}`, possibleSchema);

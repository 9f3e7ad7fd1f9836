import { z } from 'zod';
import { providerActs, type Abilities, type ProviderAction } from '$lib/core/response';
import type { Clock } from '$lib/core/time';
import type { ActAnswer, Acts } from '../port/acts';
import { ProviderError, type ProviderAccess } from '../port/provider';
import { callLevante } from './signed';

const abilitiesSchema = z.object({
  kinds: z.array(z.string()).max(50),
  stopped: z.boolean(),
  size: z.object({ now: z.string().max(60), choices: z.array(z.string().min(1).max(60)).max(200) }).nullable(),
  count: z.object({ now: z.int().min(0), least: z.int().min(0), most: z.int().min(0) }).nullable()
});
const answerSchema = z.object({ state: z.enum(['going', 'done', 'failed']), says: z.string().max(1000).default('') });
const foretoldSchema = z.object({ says: z.array(z.string().max(300)).max(20) });
const listSchema = z.object({ acts: z.array(z.unknown()) });

/** Acts of Levante: each with a key of ours, by which it does nothing twice and says what became of it. */
export function levanteActs(clock: Clock, access: ProviderAccess): Acts {
  const path = (resource: string) => `/v1/resources/${encodeURIComponent(resource)}/acts`;
  const bodyOf = (action: ProviderAction) => ({
    kind: action.kind,
    ...(action.kind === 'size' && { size: action.size }),
    ...(action.kind === 'count' && { count: action.to })
  });
  return {
    abilities: async (resource): Promise<Abilities> => {
      const found = await callLevante(clock, access, 'GET', path(resource), null, abilitiesSchema);
      const kinds = providerActs.filter((kind) => found.kinds.includes(kind));
      return { kinds, isStopped: found.stopped, size: found.size, count: found.count };
    },
    foretell: async (resource, action) =>
      (await callLevante(clock, access, 'POST', path(resource), { ...bodyOf(action), dry: true }, foretoldSchema)).says,
    act: (resource, action, key): Promise<ActAnswer> =>
      callLevante(clock, access, 'POST', path(resource), bodyOf(action), answerSchema, {
        'idempotency-key': `"${key}"`
      }),
    outcome: async (key) => {
      try {
        return await callLevante(clock, access, 'GET', `/v1/acts/${encodeURIComponent(key)}`, null, answerSchema);
      } catch (error) {
        if (error instanceof ProviderError && error.answered?.status === 404) return null;
        throw error;
      }
    }
  };
}

/** Lists what was done, which needs the right to do something and does nothing. */
export const tryActing = (clock: Clock, access: ProviderAccess): Promise<unknown> =>
  callLevante(clock, access, 'GET', '/v1/acts', null, listSchema);

import { z } from 'zod';
import { idSchema } from '../forms/id';
import { countOf } from '../words/count';

/** What can be done with a resource at its provider. */
export const providerActs = ['restart', 'stop', 'start', 'size', 'count'] as const;
export type ProviderAct = (typeof providerActs)[number];

const count = z.int({ error: 'A count is a whole number.' }).min(0, { error: 'A count is not below 0.' }).max(10_000);

/** What is to be done: at the provider, or by whoever receives a signed webhook. */
export const actionSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('restart') }),
  z.strictObject({ kind: z.literal('stop') }),
  z.strictObject({ kind: z.literal('start') }),
  z.strictObject({ kind: z.literal('size'), size: z.string().min(1, { error: 'Choose a size.' }).max(60) }),
  z.strictObject({ kind: z.literal('count'), to: count }),
  /** From what it is then, and never beyond a limit. */
  z.strictObject({
    kind: z.literal('more'),
    by: z
      .int({ error: 'Give by how many.' })
      .min(-100)
      .max(100)
      .refine((by) => by !== 0, { error: 'Give by how many it changes.' }),
    limit: count
  }),
  z.strictObject({ kind: z.literal('webhook'), channelId: idSchema })
]);
export type Action = z.infer<typeof actionSchema>;
export type ActionKind = Action['kind'];
export const actionKinds: readonly ActionKind[] = ['restart', 'stop', 'start', 'size', 'count', 'more', 'webhook'];

/** What is done at the provider: counts are known, nothing depends on anything any more. */
export type ProviderAction = Exclude<Action, { kind: 'more' | 'webhook' }>;

/** What a provider says can be done with a resource now. */
export interface Abilities {
  readonly kinds: readonly ProviderAct[];
  readonly isStopped: boolean;
  readonly size: { readonly now: string; readonly choices: readonly string[] } | null;
  readonly count: { readonly now: number; readonly least: number; readonly most: number } | null;
}

/** @example actName('restart') // 'Restart' */
export const actName = (kind: ProviderAct): string => actNames[kind];
const actNames: Readonly<Record<ProviderAct, string>> = {
  restart: 'Restart',
  stop: 'Stop',
  start: 'Start',
  size: 'Change the size',
  count: 'Change the count'
};

/**
 * What is to be done, as the end of a sentence.
 *
 * @param channelName of a channel, by its id
 * @example actionText({ kind: 'more', by: 1, limit: 8 }) // 'add 1, up to 8'
 */
export function actionText(action: Action, channelName: (id: number) => string = (id) => `channel ${id}`): string {
  switch (action.kind) {
    case 'restart':
    case 'stop':
    case 'start':
      return `${action.kind} it`;
    case 'size':
      return `change its size to ${action.size}`;
    case 'count':
      return `change its count to ${action.to}`;
    case 'more':
      return action.by > 0
        ? `add ${action.by}, up to ${action.limit}`
        : `take ${-action.by} away, down to ${action.limit}`;
    case 'webhook':
      return `call ${channelName(action.channelId)}`;
    default:
      throw new RangeError(`actionText: no action "${JSON.stringify(action satisfies never)}"`);
  }
}

/**
 * The count that a change comes to; null when it changes nothing, since the limit is reached.
 *
 * @example countAfter({ kind: 'more', by: 2, limit: 5 }, { now: 4, least: 1, most: 12 }) // 5
 */
export function countAfter(
  { by, limit }: Extract<Action, { kind: 'more' }>,
  { now, least, most }: NonNullable<Abilities['count']>
): number | null {
  const to = by > 0 ? Math.min(now + by, limit, most) : Math.max(now + by, limit, least);
  return by > 0 ? (to > now ? to : null) : to < now ? to : null;
}

/**
 * Why an action cannot be done with what is possible; null when it can.
 *
 * @example whyNot({ kind: 'stop' }, { kinds: ['stop'], isStopped: true, size: null, count: null }) // 'It is stopped already.'
 */
export function whyNot(action: ProviderAction, { kinds, isStopped, size, count: counted }: Abilities): string | null {
  if (!kinds.includes(action.kind)) return 'Its provider cannot do this with it.';
  if (action.kind === 'start' && !isStopped) return 'It is running.';
  if (isStopped && (action.kind === 'restart' || action.kind === 'stop' || action.kind === 'size'))
    return 'It is stopped already.';
  if (action.kind === 'size') {
    if (size === null || !size.choices.includes(action.size)) return `There is no size ${action.size}.`;
    if (size.now === action.size) return `Its size is ${action.size} already.`;
  }
  if (action.kind === 'count') {
    if (counted === null || action.to < counted.least || action.to > counted.most)
      return `Its count is between ${counted?.least ?? 0} and ${counted?.most ?? 0}.`;
    if (counted.now === action.to) return `Its count is ${action.to} already.`;
  }
  return null;
}

/** Whether something is interrupted or goes away by it, so that the name has to be typed. */
export const isDangerous = (action: ProviderAction, { count: counted }: Abilities): boolean =>
  action.kind === 'stop' ||
  action.kind === 'size' ||
  (action.kind === 'count' && counted !== null && action.to < counted.now);

/** @example abilityText({ kinds: [], isStopped: false, size: null, count: { now: 3, least: 1, most: 12 } }) // '3 now, from 1 to 12' */
export const abilityText = ({ isStopped, size, count: counted }: Abilities): string =>
  [
    isStopped ? 'stopped' : '',
    size === null ? '' : `size ${size.now}`,
    counted === null ? '' : `${counted.now} now, from ${counted.least} to ${counted.most}`
  ]
    .filter((part) => part !== '')
    .join('; ');

/** How many times, in words. @example timesText(2) // '2 times' */
export const timesText = (times: number): string => (times === 1 ? 'once' : countOf(times, 'time'));

import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import { durationFromText, type Duration } from '../time';
import { mostSearchCharacters, readSearch } from '../logs';
import { matchesAny } from '../pattern';
import { Refusal } from '../problem/problem';

/** How often samples can be collected. */
export const planIntervals = ['PT15S', 'PT30S', 'PT1M', 'PT5M', 'PT15M', 'PT30M'] as const;

const pattern = z.string().trim().min(1).max(200);

/** Which metrics of a service are collected. */
const metricsSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('all') }),
  z.strictObject({ kind: z.literal('recommended') }),
  z.strictObject({ kind: z.literal('list'), names: z.array(z.string().min(1).max(200)).max(500) }),
  z.strictObject({
    kind: z.literal('patterns'),
    patterns: z.array(pattern).min(1, { error: 'Give at least one pattern.' }).max(50)
  })
]);

function readableSearch(text: string, context: z.RefinementCtx): void {
  try {
    readSearch(text);
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    context.addIssue({ code: 'custom', message: `Lines left out: ${error.message}` });
  }
}

/**
 * What is collected of one service of one account, how often, what is left out, and how long it is stored, with what happened there. `chosen` collects the resources that a person
 * switched on, `all` also those that appear later.
 *
 * @example planSchema.parse({ ...usualPlan, every: 'PT5M', leaveOut: { names: ['lab-*'], tags: [], namespaces: [] } })
 */
export const planSchema = z.strictObject({
  version: z.literal(1),
  collect: z.enum(['nothing', 'chosen', 'all']),
  every: z.enum(planIntervals),
  metrics: metricsSchema,
  leaveOut: z.strictObject({
    names: z.array(pattern).max(50),
    tags: z.array(z.strictObject({ key: z.string().min(1).max(100), value: pattern })).max(50),
    namespaces: z.array(pattern).max(50)
  }),
  lines: z
    .strictObject({
      collect: z.boolean(),
      /** The least severity, OpenTelemetry's number. */
      from: z.int().min(1).max(24),
      /** A search that finds what is left out; empty for nothing. */
      leaveOut: z.string().trim().max(mostSearchCharacters).superRefine(readableSearch)
    })
    .default({ collect: true, from: 1, leaveOut: '' }),
  keep: z.strictObject({
    sampleDays: z.int().min(1).max(800),
    fiveMinuteDays: z.int().min(1).max(3660),
    hourDays: z.int().min(1).max(3660),
    eventDays: z.int().min(1).max(3660).default(400),
    incidentDays: z.int().min(1).max(3660).default(1830),
    lineDays: z.int().min(1).max(3660).default(30)
  })
});
export type CollectionPlan = z.infer<typeof planSchema>;

/** How collection plans are stored. */
export const planForm: StoredForm<CollectionPlan> = {
  what: 'The plan for',
  version: 1,
  schema: planSchema,
  upgrades: [],
  ownsVersion: true
};

/** What a service is collected by until somebody says otherwise. */
export const usualPlan: CollectionPlan = {
  version: 1,
  collect: 'all',
  every: 'PT1M',
  metrics: { kind: 'recommended' },
  leaveOut: { names: [], tags: [], namespaces: [] },
  lines: { collect: true, from: 1, leaveOut: '' },
  keep: { sampleDays: 15, fiveMinuteDays: 400, hourDays: 1830, eventDays: 400, incidentDays: 1830, lineDays: 30 }
};

/** What a plan looks at of a metric. */
export interface PlannedMetric {
  readonly name: string;
  readonly recommended: boolean;
  readonly level: 'host' | 'guest';
}

/** What a plan looks at of a resource. */
export interface PlannedResource {
  readonly name: string;
  readonly tags: Readonly<Record<string, string>>;
  /** A person's word for this resource; null follows the plan. */
  readonly chosen: boolean | null;
  /** Whether guest-level metrics are reported: `none` has no such thing. */
  readonly guest: 'none' | 'off' | 'on';
}

/** @example planEvery(usualPlan) // 60000 */
export const planEvery = ({ every }: Pick<CollectionPlan, 'every'>): Duration => durationFromText(every);

/** Whether a plan selects a metric. @example selectsMetric({ ...usualPlan, metrics: { kind: 'all' } }, metric) // true */
export function selectsMetric({ metrics }: CollectionPlan, metric: PlannedMetric): boolean {
  switch (metrics.kind) {
    case 'all':
      return true;
    case 'recommended':
      return metric.recommended;
    case 'list':
      return metrics.names.includes(metric.name);
    case 'patterns':
      return matchesAny(metrics.patterns, metric.name);
    default:
      throw new TypeError(`selectsMetric: unknown kind ${JSON.stringify(metrics satisfies never)}`);
  }
}

/** Whether a plan leaves a resource out, by name, tag or namespace. */
export function leavesOut(
  { leaveOut }: CollectionPlan,
  { name, tags }: Pick<PlannedResource, 'name' | 'tags'>
): boolean {
  return (
    matchesAny(leaveOut.names, name) ||
    leaveOut.tags.some(({ key, value }) => Object.hasOwn(tags, key) && matchesAny([value], tags[key] ?? '')) ||
    (tags['namespace'] !== undefined && matchesAny(leaveOut.namespaces, tags['namespace']))
  );
}

/**
 * Whether a resource is collected. A person's word for one resource comes first, then what is left out, then the plan.
 *
 * @example collects(usualPlan, { name: 'lab-3', tags: {}, chosen: false, guest: 'none' }) // false
 */
export function collects(plan: CollectionPlan, resource: PlannedResource): boolean {
  if (plan.collect === 'nothing') return false;
  if (resource.chosen !== null) return resource.chosen;
  return plan.collect === 'all' && !leavesOut(plan, resource);
}

/** The metrics of a resource that are collected: those the plan selects, guest-level ones only where they are reported. */
export const collectedMetrics = <Metric extends PlannedMetric>(
  plan: CollectionPlan,
  resource: PlannedResource,
  metrics: readonly Metric[]
): Metric[] =>
  collects(plan, resource)
    ? metrics.filter((metric) => selectsMetric(plan, metric) && (metric.level === 'host' || resource.guest === 'on'))
    : [];

import { z } from 'zod';
import { lengthSchema, severities, wakingShape } from '../alarm';
import type { StoredForm } from '../forms/stored';
import { stars } from '../pattern';
import { durationFromText, peopleDuration } from '../time';
import { longestAttribute, longestSource, type OutsideEvent } from './event';

/** Patterns of one part: every event that arrives is tried with each. */
const mostPatterns = 20;
const patterns = z.array(z.string().trim().min(1).max(longestSource)).max(mostPatterns).default([]);

/** Which events: of each part any of some patterns, `*` for any characters; what is empty holds for all. */
export const eventConditionSchema = z.strictObject({
  types: patterns,
  sources: patterns,
  resources: patterns,
  attributes: z
    .array(z.strictObject({ name: z.string().trim().min(1).max(200), is: z.string().max(longestAttribute) }))
    .max(mostPatterns)
    .default([])
});
export type EventCondition = z.infer<typeof eventConditionSchema>;

const saysSomething = ({ types, sources, resources, attributes }: EventCondition): boolean =>
  [types, sources, resources, attributes].some((part) => part.length > 0);

/**
 * A rule by which events raise incidents, one for each thing that they are about.
 *
 * @example
 * eventRuleSchema.parse({ name: 'Replication stalled', when: { types: ['stalled'] }, severity: 'critical', clears: { by: 'event', when: { types: ['resumed'] } } })
 */
export const eventRuleSchema = z.strictObject({
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the rule a name: it is the first thing people read at night.' })
    .max(120),
  enabled: z.boolean().default(true),
  when: eventConditionSchema.refine(saysSomething, {
    error: 'Say which events: a type, a source, a resource or an attribute.'
  }),
  severity: z.enum(severities),
  clears: z.discriminatedUnion('by', [
    z.strictObject({
      by: z.literal('event'),
      when: eventConditionSchema.refine(saysSomething, { error: 'Say which events clear it.' })
    }),
    /** So long after the last event that raises it. */
    z.strictObject({ by: z.literal('time'), after: lengthSchema }),
    z.strictObject({ by: z.literal('hand') })
  ]),
  ...wakingShape
});
export type EventRule = z.infer<typeof eventRuleSchema>;

/** How event rules are stored. */
export const eventRuleForm: StoredForm<EventRule> = {
  what: 'The event rule',
  version: 1,
  schema: eventRuleSchema,
  upgrades: []
};

const matchesAny = (wanted: readonly string[], text: string): boolean => wanted.some((pattern) => stars(pattern)(text));

/** Whether an event is one of those. @example isAmong(rule.when, event) // true */
export function isAmong(
  { types, sources, resources, attributes }: EventCondition,
  event: Pick<OutsideEvent, 'type' | 'source' | 'account' | 'resource' | 'attributes'>
): boolean {
  return (
    (types.length === 0 || matchesAny(types, event.type)) &&
    // People know an event of a provider by the account that it came from.
    (sources.length === 0 || matchesAny(sources, event.source) || matchesAny(sources, event.account)) &&
    (resources.length === 0 || matchesAny(resources, event.resource)) &&
    attributes.every(
      ({ name, is }) => Object.hasOwn(event.attributes, name) && matchesAny([is], event.attributes[name] ?? '')
    )
  );
}

/** A condition in words. @example eventWords({ types: ['stalled'], sources: [], resources: ['dorsale-*'], attributes: [] }) // 'stalled on dorsale-*' */
export function eventWords({ types, sources, resources, attributes }: EventCondition): string {
  const or = (texts: readonly string[]): string => texts.join(' or ');
  const parts = [
    types.length === 0 ? 'any event' : or(types),
    ...(resources.length === 0 ? [] : [`on ${or(resources)}`]),
    ...(sources.length === 0 ? [] : [`from ${or(sources)}`]),
    ...(attributes.length === 0 ? [] : [`with ${attributes.map(({ name, is }) => `${name} ${is}`).join(' and ')}`])
  ];
  return parts.join(' ');
}

/** A rule in one sentence. @example ruleSentence(rule) // 'Raised (critical) by stalled, cleared by resumed about the same.' */
export function ruleSentence({ when, severity, clears }: EventRule): string {
  const raised = `Raised (${severity}) by ${eventWords(when)}`;
  switch (clears.by) {
    case 'event':
      return `${raised}, cleared by ${eventWords(clears.when)} about the same.`;
    case 'time':
      return `${raised}, clear ${peopleDuration(durationFromText(clears.after))} after the last.`;
    case 'hand':
      return `${raised}, until somebody closes it.`;
    default:
      throw new TypeError(`ruleSentence: unknown ${JSON.stringify(clears satisfies never)}`);
  }
}

import { z } from 'zod';
import type { StoredForm } from '../forms/stored';
import {
  labelConditionSchema,
  conditionMatcher,
  spokenCondition,
  type LabelCondition,
  type SeriesLabels
} from '../signal';

/** What rules of groups look at of a resource; tags are `tag.name`. */
export const groupLabels = ['resource', 'account', 'provider', 'region', 'service', 'type'] as const;

/**
 * Which resources belong to a group: those that meet any, or all, of some conditions.
 *
 * @example groupRuleSchema.parse({ match: 'all', conditions: [{ label: 'resource', matches: '^booking-' }] })
 */
export const groupRuleSchema = z.strictObject({
  match: z.enum(['any', 'all']),
  conditions: z
    .array(
      labelConditionSchema
        .refine((condition) => !('picker' in condition), { error: 'A group has no pickers.' })
        .refine(({ label }) => groupLabels.some((known) => known === label) || label.startsWith('tag.'), {
          error: `A group looks at ${groupLabels.join(', ')} or a tag, as tag.name.`
        })
    )
    .min(1, { error: 'Give at least one condition.' })
    .max(20)
});
export type GroupRule = z.infer<typeof groupRuleSchema>;

/** How the rules of groups are stored. */
export const groupForm: StoredForm<GroupRule> = {
  what: 'The group',
  version: 1,
  schema: groupRuleSchema,
  upgrades: []
};

/** A group as people define it. */
export const groupSchema = z.strictObject({
  name: z
    .string()
    .trim()
    .min(1, { error: 'Give the group a name.' })
    .max(60)
    .regex(/^[a-z0-9][a-z0-9-]*$/, { error: 'Use small letters, digits and hyphens.' }),
  rule: groupRuleSchema
});
export type GroupDefinition = z.infer<typeof groupSchema>;

/** A test whether a resource belongs to a group. @example belonging(rule)({ resource: 'booking-web-1' }) // true */
export function belonging({ match, conditions }: GroupRule): (labels: SeriesLabels) => boolean {
  if (match === 'all') return conditionMatcher(conditions);
  const tests = conditions.map((condition: LabelCondition) => conditionMatcher([condition]));
  return (labels) => tests.some((test) => test(labels));
}

/** @example groupSentence(rule) // 'Resources whose resource matches ^booking-' */
export const groupSentence = ({ match, conditions }: GroupRule): string =>
  `Resources whose ${conditions.map(spokenCondition).join(match === 'all' ? ' and ' : ' or ')}`;

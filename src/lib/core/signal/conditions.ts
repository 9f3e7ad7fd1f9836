import { RE2JS, RE2JSException } from 're2js';
import { z } from 'zod';

/** Labels that every series has; others come from its source, and `tag.name` are tags of its resource. */
export const standardLabels = ['account', 'provider', 'region', 'service', 'type', 'resource', 'group'] as const;

/** Labels of one series by name. */
export type Labels = Readonly<Record<string, string>>;

/** The value of a label; empty for one that is not there, whatever its name. @example labelValue({ region: 'p' }, 'constructor') // '' */
export const labelValue = (labels: Labels, name: string): string =>
  Object.hasOwn(labels, name) ? (labels[name] as string) : '';

/** Longest expression; those of linear time may still be large. */
const longestExpression = 300;

/** A regular expression that is found anywhere in a value, in linear time whatever it is. */
const expression = z
  .string()
  .min(1)
  .max(longestExpression)
  .superRefine((text, context) => {
    const problem = expressionProblem(text);
    if (problem !== null) context.addIssue({ code: 'custom', message: problem });
  });

const label = z.string().min(1).max(120);
const values = z.array(z.string().min(1).max(200)).min(1).max(200);

/**
 * A condition on one label of a series. Several conditions all hold.
 *
 * @example labelConditionSchema.parse({ label: 'region', isNot: ['perla-2'] })
 */
export const labelConditionSchema = z.union(
  [
    z.strictObject({ label, is: values }),
    z.strictObject({ label, isNot: values }),
    z.strictObject({ label, matches: expression }),
    z.strictObject({ label, matchesNot: expression }),
    z.strictObject({ label, picker: z.string().min(1).max(60) })
  ],
  { error: ({ input }) => faultIn(input) ?? 'Give the label and one of is, isNot, matches, matchesNot or picker.' }
);
export type LabelCondition = z.infer<typeof labelConditionSchema>;

/** What is wrong with the expression of a condition that is else as it should be. */
function faultIn(condition: unknown): string | null {
  const { matches, matchesNot } = (condition ?? {}) as { matches?: unknown; matchesNot?: unknown };
  const given = matches ?? matchesNot;
  if (typeof given !== 'string') return null;
  return expression.safeParse(given).error?.issues[0]?.message ?? null;
}

/** Groups that a series belongs to are compared as one of several values. */
export type SeriesLabels = Readonly<Record<string, string | readonly string[]>>;

/**
 * A test of labels for a list of conditions. A label that a series does not have counts as empty text. A reference to a picker that nobody has set holds always.
 *
 * @example conditionMatcher([{ label: 'region', is: ['perla-1'] }])({ region: 'perla-1' }) // true
 */
export function conditionMatcher(where: readonly LabelCondition[]): (labels: SeriesLabels) => boolean {
  const tests = where.map(testOf);
  return (labels) => tests.every((test) => test(labels));
}

function testOf(condition: LabelCondition): (labels: SeriesLabels) => boolean {
  const { label } = condition;
  const some = (labels: SeriesLabels, holds: (value: string) => boolean): boolean => {
    const own = Object.hasOwn(labels, label) ? labels[label] : undefined;
    return typeof own === 'object' ? own.some(holds) : holds(own ?? '');
  };
  if ('is' in condition) {
    const wanted = new Set(condition.is);
    return (labels) => some(labels, (value) => wanted.has(value));
  }
  if ('isNot' in condition) {
    const unwanted = new Set(condition.isNot);
    return (labels) => !some(labels, (value) => unwanted.has(value));
  }
  if ('matches' in condition) {
    const pattern = RE2JS.compile(condition.matches);
    return (labels) => some(labels, (value) => pattern.test(value));
  }
  if ('matchesNot' in condition) {
    const pattern = RE2JS.compile(condition.matchesNot);
    return (labels) => !some(labels, (value) => pattern.test(value));
  }
  return () => true;
}

/**
 * Puts the values of a board's pickers in place of references to them; a picker that nobody has set selects everything.
 *
 * @example picked([{ label: 'account', picker: 'account' }], { account: ['corallo-prod'] }) // [{ label: 'account', is: ['corallo-prod'] }]
 */
export const picked = (
  where: readonly LabelCondition[],
  pickers: Readonly<Record<string, readonly string[]>>
): LabelCondition[] =>
  where.flatMap((condition) => {
    if (!('picker' in condition)) return [condition];
    const chosen = Object.hasOwn(pickers, condition.picker) ? (pickers[condition.picker] ?? []) : [];
    return chosen.length === 0 ? [] : [{ label: condition.label, is: [...chosen] }];
  });

/** Why a regular expression cannot be used, in words; null when it can. @example expressionProblem('(') // 'The expression …' */
export function expressionProblem(text: string): string | null {
  try {
    RE2JS.compile(text);
    return null;
  } catch (error) {
    if (error instanceof RE2JSException) return `The expression cannot be read: ${error.message}.`;
    throw error;
  }
}

/** @example spokenCondition({ label: 'class', isNot: ['5xx'] }) // 'class is not 5xx' */
export function spokenCondition(condition: LabelCondition): string {
  const { label } = condition;
  if ('is' in condition) return `${label} is ${condition.is.join(' or ')}`;
  if ('isNot' in condition) return `${label} is not ${condition.isNot.join(' or ')}`;
  if ('matches' in condition) return `${label} matches ${condition.matches}`;
  if ('matchesNot' in condition) return `${label} does not match ${condition.matchesNot}`;
  return `${label} is as picked`;
}

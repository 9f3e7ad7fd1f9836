import { z } from 'zod';
import { wildcard } from '../pattern/wildcard';

const name = z.string().trim().min(1, { error: 'Enter a name.' }).max(200);
const pattern = z.string().trim().min(1, { error: 'Enter a name; * stands for any characters.' }).max(200);

/** What becomes of the series of a page before they are stored, in the order of the rules. `*` in a pattern stands for any characters. */
export const pageRuleSchema = z.discriminatedUnion('does', [
  /** Leaves out series whose metric, or whose label, is like a pattern, or unlike it. */
  z.strictObject({
    does: z.literal('leave out'),
    label: name.nullable().default(null),
    is: z.enum(['like', 'unlike']),
    pattern
  }),
  z
    .strictObject({ does: z.literal('rename metric'), pattern, to: pattern })
    .refine(({ pattern: from, to }) => stars(from) <= 1 && stars(to) <= stars(from), {
      path: ['to'],
      error: 'Use * once at most, and in the new name only where the old one has it.'
    }),
  z.strictObject({ does: z.literal('rename label'), label: name, to: name }),
  z.strictObject({ does: z.literal('leave out label'), label: pattern }),
  z.strictObject({ does: z.literal('add label'), label: name, value: name })
]);
export type PageRule = z.output<typeof pageRuleSchema>;

const stars = (text: string): number => text.split('*').length - 1;

/** A series as rules see it. */
export interface RuledSeries {
  readonly metric: string;
  readonly labels: Readonly<Record<string, string>>;
}

/**
 * Applies rules one after the other; each sees what those before it made of a series.
 *
 * @returns a function that gives the series as it is to be stored; null where it is left out
 * @example applyingRules([{ does: 'rename metric', pattern: 'old_*', to: 'new_*' }])({ metric: 'old_size', labels: {} }) // { metric: 'new_size', labels: {} }
 */
export function applyingRules(rules: readonly PageRule[]): (series: RuledSeries) => RuledSeries | null {
  const steps = rules.map(stepOf);
  return (series) => {
    let current: RuledSeries | null = series;
    for (const step of steps) {
      current = step(current);
      if (current === null) return null;
    }
    return current;
  };
}

type Step = (series: RuledSeries) => RuledSeries | null;

function stepOf(rule: PageRule): Step {
  if (rule.does === 'leave out') {
    const isLike = wildcard(rule.pattern);
    const wanted = rule.is === 'unlike';
    const { label } = rule;
    return (series) => (isLike(label === null ? series.metric : valueOf(series, label)) === wanted ? series : null);
  }
  if (rule.does === 'rename metric') return renaming(rule.pattern, rule.to);
  if (rule.does === 'rename label')
    return ({ metric, labels }) => ({
      metric,
      labels: Object.hasOwn(labels, rule.label)
        ? Object.fromEntries([
            ...Object.entries(labels).filter(([name]) => name !== rule.label && name !== rule.to),
            [rule.to, labels[rule.label] as string]
          ])
        : labels
    });
  if (rule.does === 'leave out label') {
    const isLike = wildcard(rule.label);
    return ({ metric, labels }) => ({
      metric,
      labels: Object.fromEntries(Object.entries(labels).filter(([name]) => !isLike(name)))
    });
  }
  rule satisfies { does: 'add label' };
  return ({ metric, labels }) => ({ metric, labels: { ...labels, [rule.label]: rule.value } });
}

const valueOf = ({ labels }: RuledSeries, label: string): string =>
  Object.hasOwn(labels, label) ? (labels[label] as string) : '';

function renaming(pattern: string, to: string): Step {
  const [before = '', after] = pattern.split('*');
  return (series) => {
    const { metric } = series;
    if (after === undefined) return metric === pattern ? { ...series, metric: to } : series;
    const fits = metric.length >= before.length + after.length && metric.startsWith(before) && metric.endsWith(after);
    if (!fits) return series;
    const middle = metric.slice(before.length, metric.length - after.length);
    return { ...series, metric: to.replace('*', () => middle) };
  };
}

import { z } from 'zod';
import { durationFromText, type Duration } from '../time';
import { statistics } from '../series';

/** Labels that a condition may name. */
export const conditionLabels = ['account', 'region', 'resource', 'service'] as const;
export type ConditionLabel = (typeof conditionLabels)[number];

/** Steps a signal may be aligned to: 1 minute to 12 hours. */
export const signalStepSchema = z
  .string()
  .max(20)
  .refine((text) => isStep(text), { error: 'Give an ISO 8601 duration from PT1M to PT12H, such as PT5M.' });

/**
 * A signal: which series, brought onto which grid, by which statistic. Panels, alarms and the API all hold one.
 *
 * @example
 * signalSchema.parse({ version: 1, metric: 'machine.cpu.utilization', where: [{ label: 'account', is: ['corallo-prod'] }],
 *   step: 'PT1M', statistic: 'avg' })
 */
export const signalSchema = z.strictObject({
  version: z.literal(1),
  metric: z.string().min(1).max(200),
  where: z
    .array(z.strictObject({ label: z.enum(conditionLabels), is: z.array(z.string().min(1).max(200)).min(1).max(200) }))
    .max(4)
    .default([]),
  step: signalStepSchema,
  statistic: z.enum(statistics)
});
export type Signal = z.infer<typeof signalSchema>;

/** The labels of a series that conditions look at. */
export type ConditionLabels = Readonly<Record<ConditionLabel, string>>;

/**
 * Whether a series meets every condition of a signal; a condition holds when its label is one of the listed values.
 *
 * @example meets([{ label: 'region', is: ['sella-1'] }], { region: 'sella-1', ... }) // true
 */
export const meets = (where: Signal['where'], labels: ConditionLabels): boolean =>
  where.every(({ label, is }) => is.includes(labels[label]));

/** The signal's step as a duration. @example stepOf({ step: 'PT1M', ... }) // 60000 */
export const stepOf = (signal: Pick<Signal, 'step'>): Duration => durationFromText(signal.step);

function isStep(text: string): boolean {
  try {
    const step = durationFromText(text);
    return step >= 60_000 && step <= 43_200_000 && step % 60_000 === 0;
  } catch (error) {
    if (error instanceof RangeError) return false;
    throw error;
  }
}

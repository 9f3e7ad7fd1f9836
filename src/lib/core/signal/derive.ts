import { z } from 'zod';
import { fixedStepOf, shownRows, signalSchema } from './schema';

/** The most series that one derived metric stores. */
export const mostDerivedSeries = 500;

/**
 * A metric that is worked out of others and stored: a signal on a fixed step that shows one row, under a name. Fractions of what is shown are not kept: neither
 * a limit, since who is highest changes with the range, nor digits.
 */
export const derivedSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the metric a name.' }).max(80),
  signal: signalSchema
    .refine((signal) => fixedStepOf(signal) !== null, {
      error: 'A stored metric has cells of a fixed length: choose one instead of what suits the range.',
      path: ['step']
    })
    .refine((signal) => shownRows(signal).length === 1, {
      error: 'A stored metric is one row: draw only that one.',
      path: ['show']
    })
    .refine(({ limit }) => limit === undefined, {
      error: 'Which series are highest depends on the range: store all series.',
      path: ['limit']
    })
});
export type DerivedDefinition = z.infer<typeof derivedSchema>;

/** The name of a derived metric among all metrics. @example derivedMetricName('Share of good responses') // 'derived.share-of-good-responses' */
export const derivedMetricName = (name: string): string =>
  `derived.${
    name
      .toLowerCase()
      .normalize('NFKD')
      .replace(/[^a-z0-9]+/g, '-')
      .replace(/^-|-$/g, '') || 'metric'
  }`;

import { z } from 'zod';
import { steadySignalSchema } from './schema';

/** The most series that one derived metric stores. */
export const mostDerivedSeries = 500;

/** A metric that is computed from others and stored, under a name. */
export const derivedSchema = z.strictObject({
  name: z.string().trim().min(1, { error: 'Give the metric a name.' }).max(80),
  signal: steadySignalSchema
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

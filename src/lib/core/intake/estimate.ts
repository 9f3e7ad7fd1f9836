import { planEvery, type CollectionPlan } from './plan';

const dayMs = 86_400_000;

/** One metric of one collected resource, as an estimate counts it. */
export interface CountedMetric {
  readonly samplingMs: number;
  /** Series it has: known from what arrived, else one. */
  readonly series: number;
}

/** What collection costs in a day. */
export interface Estimate {
  readonly samples: number;
  readonly requests: number;
  /** In the price table's currency. */
  readonly price: number;
  readonly bytes: number;
}

/**
 * What a plan takes in a day: a sample for each series and interval, never more than are reported; requests as the provider's interface needs them.
 *
 * @param requestsPerPull how many requests one pull of so much takes
 * @param pricePerThousand of requests
 * @param bytesPerSample as measured in the store
 * @example estimate(plan, [{ samplingMs: 60_000, series: 2 }], 1, 0.01, 2).samples // 2880
 */
export function estimate(
  plan: Pick<CollectionPlan, 'every'>,
  metrics: readonly CountedMetric[],
  requestsPerPull: number,
  pricePerThousand: number,
  bytesPerSample: number
): Estimate {
  const every = planEvery(plan);
  // Samples are reported at their own interval however rarely they are requested; asked more often, there are no more of them.
  const samples = metrics.reduce((sum, { samplingMs, series }) => sum + (series * dayMs) / samplingMs, 0);
  const requests = metrics.length === 0 ? 0 : (requestsPerPull * dayMs) / every;
  return {
    samples: Math.round(samples),
    requests: Math.round(requests),
    price: (requests * pricePerThousand) / 1000,
    bytes: Math.round(samples * bytesPerSample)
  };
}

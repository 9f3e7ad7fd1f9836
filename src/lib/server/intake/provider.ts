import type { BatchBlock } from '$lib/core/series';
import type { Range } from '$lib/core/time';

/** Why a provider did not give what was asked. Each kind has its own remedy. */
export type ProviderFault =
  'unreachable' | 'clock' | 'signature' | 'permission' | 'throttled' | 'unavailable' | 'malformed' | 'refused';

/** A call to a provider that failed: what happened, and what a person can do about it. */
export class ProviderError extends Error {
  readonly fault: ProviderFault;
  readonly remedy: string;

  constructor(fault: ProviderFault, message: string, remedy: string, options?: ErrorOptions) {
    super(message, options);
    this.name = 'ProviderError';
    this.fault = fault;
    this.remedy = remedy;
  }
}

/** What a credential says: where, who, and the secret that proves it. */
export interface ProviderAccess {
  readonly endpoint: string;
  readonly keyId: string;
  readonly secret: string;
}

/** One line of an account's test, in the order it was tried. */
export interface AccessCheck {
  readonly name: 'reach' | 'clock' | 'signature' | 'list resources' | 'read metrics';
  readonly passed: boolean;
  /** One sentence: what was seen. */
  readonly says: string;
  /** What to do when it did not pass. */
  readonly remedy: string | null;
}

export interface FoundResource {
  readonly providerId: string;
  readonly name: string;
  readonly type: string;
  readonly service: string;
  readonly region: string;
  readonly tags: Readonly<Record<string, string>>;
}

export interface FoundMetric {
  readonly name: string;
  readonly title: string;
  readonly description: string;
  readonly unit: string;
  readonly kind: string;
  readonly shape: string;
  readonly resourceType: string;
  readonly service: string;
  readonly samplingMs: number;
  readonly delayMs: number;
}

/** A series to be fetched: our id and how the provider knows it. */
export interface WantedSeries {
  readonly id: number;
  readonly resource: string;
  readonly metric: string;
}

/** One page of a fetch. */
export interface FetchedPage {
  readonly blocks: readonly BatchBlock[];
  /** Values that were refused because they are not numbers, and the first of them in words. */
  readonly refused: number;
  readonly refusedExample: string | null;
}

/** The small port behind which every provider's interface lies. A further provider is a folder beside `levante` and a line in `providers.ts`. */
export interface Provider {
  readonly name: string;
  testAccess(access: ProviderAccess): Promise<AccessCheck[]>;
  discover(access: ProviderAccess): Promise<FoundResource[]>;
  describeMetrics(access: ProviderAccess): Promise<FoundMetric[]>;
  /** Points of a half-open range, page by page. */
  fetch(access: ProviderAccess, series: readonly WantedSeries[], range: Range): AsyncIterable<FetchedPage>;
}

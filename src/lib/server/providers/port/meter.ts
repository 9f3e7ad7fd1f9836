/** What calls to a provider came to. */
export interface Meter {
  requests: number;
  throttled: number;
  /** By how much the provider's clock is ahead of ours, ms; null when it does not say. */
  clockAheadMs: number | null;
}

/** What every call to a provider goes through. */
export interface Guard {
  readonly meter: Meter;
  run<T>(call: () => Promise<T>): Promise<T>;
}

/** The limits of one account. */
export interface GuardLimits {
  /** Calls at the same time. */
  readonly atOnce: number;
  /** Calls a second on average, and how many may come at once. */
  readonly perSecond: number;
  readonly burst: number;
  /** Tries of one call, the first included. */
  readonly tries: number;
  /** After so many failures on end, nothing is called for a while. */
  readonly failuresToRest: number;
  readonly restMs: number;
}

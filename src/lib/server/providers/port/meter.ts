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

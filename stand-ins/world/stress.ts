/** A trouble made on purpose: the metric holds a value, or the resource is silent, from one moment to another. */
export interface Stress {
  readonly resource: string;
  /** A metric's name, or `all`. */
  readonly metric: string;
  /** The value readings are drawn to; null is silence. */
  readonly value: number | null;
  readonly from: number;
  readonly until: number;
}

/** The stress on a metric at a moment, the latest made; undefined when there is none. */
export const stressAt = (
  stresses: readonly Stress[],
  resource: string,
  metric: string,
  moment: number
): Stress | undefined =>
  stresses.findLast(
    (s) =>
      s.resource === resource && (s.metric === 'all' || s.metric === metric) && moment >= s.from && moment < s.until
  );

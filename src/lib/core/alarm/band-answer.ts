import type { Season } from '../band';
import type { Labels } from '../signal';
import type { Duration, Instant } from '../time';

/** Series whose bands are drawn at once: more of them hide each other. */
export const mostDrawnBands = 12;

/** The anomaly bands of a signal over the cells of a grid, to be drawn. */
export interface BandAnswer {
  readonly start: Instant;
  readonly step: Duration;
  readonly count: number;
  /** UCUM code of the edges. */
  readonly unit: string;
  readonly series: readonly {
    readonly labels: Labels;
    /** The edges in each cell, null where there is no band; empty for a series without one. */
    readonly low: readonly (number | null)[];
    readonly high: readonly (number | null)[];
    /** What it was learned from; null without one. */
    readonly learned: { readonly days: number; readonly season: Season } | null;
  }[];
}

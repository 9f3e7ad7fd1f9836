import type { Severity } from '$lib/core/alarm';
import { cellAt, cellStart, type Calendar, type Duration, type Instant, type Range } from '$lib/core/time';

/** One line of a chart. */
export interface Line {
  readonly id: number;
  readonly name: string;
  /** One value for each cell; a gap is NaN. */
  readonly values: Float64Array;
  /** Which of the eight hues, 1 to 8, and whether the line is dashed because the hues have gone round once. */
  readonly hue: number;
  readonly dashed: boolean;
  /** A colour of the theme that it has instead of its hue, where it means something: that of a severity, or a quiet one. */
  readonly tone?: 'quiet' | 'line-strong' | Severity;
  /** How many of its cells are complete: those after them are still filling and are drawn lighter. All by default. */
  readonly complete?: number;
  /** Whether something is raised on it now: it stands out among many. */
  readonly isRaised?: boolean;
}

/** The name of the colour of a line. @example colourName({ hue: 3 }) // '--hue-3' */
export const colourName = ({ hue, tone }: Pick<Line, 'hue' | 'tone'>): string => `--${tone ?? `hue-${hue}`}`;

/** What a chart draws. */
export interface Picture {
  readonly start: number;
  readonly step: number;
  readonly count: number;
  /** Where cells of days and weeks begin. */
  readonly calendar?: Calendar | undefined;
  readonly range: Range;
  readonly lines: readonly Line[];
  /** UCUM code. */
  readonly unit: string;
  /** Digits after the point of the values that are read off; as many as suit each by default. */
  readonly digits?: number | undefined;
  /** How it is drawn; lines by default. */
  readonly drawing?: 'lines' | 'areas' | 'stacked' | 'bars';
  /** Ends of the axis that do not follow the data. */
  readonly axis?:
    | { readonly from?: number | undefined; readonly to?: number | undefined; readonly log?: boolean | undefined }
    | undefined;
  /** What was there a length of time earlier, drawn thin where it would be now. */
  readonly earlier?: Earlier | undefined;
  /** Anomaly bands, drawn as soft areas behind the lines. */
  readonly bands?: BandAreas | undefined;
  /** Limits where they are others than usual, one value for each cell; NaN elsewhere. */
  readonly otherLimits?: readonly { readonly severity: Severity; readonly values: Float64Array }[] | undefined;
}

/** The anomaly bands of lines, over cells of their own. */
export interface BandAreas {
  readonly start: number;
  readonly step: number;
  readonly count: number;
  readonly areas: readonly {
    readonly hue: number;
    /** The edges in each cell; NaN where there is no band. */
    readonly low: Float64Array;
    readonly high: Float64Array;
  }[];
}

/** Lines of an earlier span, by the same ids. */
export interface Earlier {
  readonly start: number;
  readonly step: number;
  readonly count: number;
  readonly calendar?: Calendar | undefined;
  readonly lines: readonly Line[];
  /** By how many milliseconds they are drawn later than they were. */
  readonly shift: number;
  /** How long ago that was, in words, such as `1 week`. */
  readonly words: string;
}

/** A mark on the time axis, of an instant or of a span. */
export interface MarkFlag {
  readonly from: Instant;
  readonly to: Instant | null;
  readonly text: string;
  /** Whether a provider reported it: people's notes alone are in the colour of notes. */
  readonly isEvent?: boolean;
}

/** Where a cell of a picture begins. */
export const startOfCell = (picture: Pick<Picture, 'start' | 'step' | 'count' | 'calendar'>, cell: number): Instant =>
  cellStart(gridOf(picture), cell);

/** The cell of a picture at an instant, below 0 or beyond its cells when it is not there. */
export const cellOfInstant = (picture: Pick<Picture, 'start' | 'step' | 'count' | 'calendar'>, at: number): number =>
  cellAt(gridOf(picture), at);

const gridOf = ({ start, step, count, calendar }: Pick<Picture, 'start' | 'step' | 'count' | 'calendar'>) => ({
  start: start as Instant,
  step: step as Duration,
  count,
  ...(calendar ? { calendar } : {})
});

/** A labelled line across the chart. */
export interface Limit {
  readonly value: number;
  readonly text: string;
  readonly severity: Severity;
}

/** A raised period, drawn as stacked ticks on the axis. */
export interface RaisedTicks {
  readonly from: Instant;
  readonly to: Instant | null;
  readonly severity: Severity;
}

/** How many hues there are; each can be dashed too. */
export const hues = 8;

/** The hue of a resource: fixed by its place among all resources of the workspace, so that it is the same on every panel and after every filter. */
export const hueOf = (resourceId: number): { hue: number; dashed: boolean } => ({
  hue: ((resourceId - 1) % hues) + 1,
  dashed: Math.floor((resourceId - 1) / hues) % 2 === 1
});

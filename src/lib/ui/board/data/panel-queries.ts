import { signalsOf, type Panel, type PictureKind, type Reduction } from '$lib/core/board';
import type { Signal } from '$lib/core/signal';
import {
  before as earlierThan,
  duration,
  durationFromText,
  hour,
  type Duration,
  type Instant,
  type Range
} from '$lib/core/time';

/** A signal that a panel needs computed: over the board's range, over what is now, or the same earlier. */
export interface Asked {
  /** What the panel calls it: `main` or `column 2`, `course`, `earlier`. */
  readonly name: string;
  readonly signal: Signal;
  readonly range: Range;
  readonly cells: number;
  /** Which of the panel's signals it is. */
  readonly column: number;
}

/** What else decides what a panel asks. */
export interface ReadingOptions {
  /** Another length of time to compare with, or none; the panel's own when it is not said. */
  readonly earlier?: Duration | null | undefined;
  /** The slowest sampling and the longest delay of a signal's metrics. */
  arrivalOf(signal: Signal): { readonly samplingMs: number; readonly delayMs: number };
}

/** Cells that pictures have room for. */
const room: Readonly<Partial<Record<PictureKind, number>>> = { bars: 60, heat: 120, table: 200 };
const usualRoom = 400;
/** Cells of a small course. */
const courseRoom = 60;

/** All that a panel asks, whose signals are as they are shown. Figures of now look at the last half hour, or as far back as slow metrics need, whatever range is shown. */
export function queriesOfPanel(panel: Panel, range: Range, options: ReadingOptions): Asked[] {
  /** A small course has cells that suit the range, and none shorter than samples come. */
  const following = (signal: Signal): Signal => ({ ...signal, step: 'auto' });
  const now = (signal: Signal): Range => {
    const { samplingMs, delayMs } = options.arrivalOf(signal);
    const back = Math.max(Math.min(range.to - range.from, hour / 2), delayMs + 4 * samplingMs);
    return { from: earlierThan(range.to, duration(back)), to: range.to };
  };
  const figure = (name: string, signal: Signal, reduce: Reduction, column = 0): Asked => ({
    name,
    signal,
    range: reduce === 'last' ? now(signal) : range,
    cells: usualRoom,
    column
  });
  switch (panel.picture) {
    case 'lines':
    case 'areas':
    case 'stacked':
    case 'bars': {
      const cells = room[panel.picture] ?? usualRoom;
      const main = { name: 'main', signal: panel.signal, range, cells, column: 0 };
      const shift = earlierOf(panel.earlier, options.earlier);
      return shift === null ? [main] : [main, before(main, shift)];
    }
    case 'table':
    case 'heat':
    case 'histogram':
      return [{ name: 'main', signal: panel.signal, range, cells: room[panel.picture] ?? usualRoom, column: 0 }];
    case 'ranks':
    case 'ring':
    case 'gauge':
      return [figure('main', panel.signal, panel.reduce)];
    case 'number': {
      const main = figure('main', panel.signal, panel.reduce);
      const course = { name: 'course', signal: following(panel.signal), range, cells: courseRoom, column: 0 };
      const shift = earlierOf(panel.earlier, options.earlier);
      return shift === null ? [main, course] : [main, course, before(main, shift)];
    }
    case 'snapshot':
      return panel.columns.map(({ signal, reduce, show }, index) =>
        show === 'course'
          ? { name: `column ${index}`, signal: following(signal), range, cells: courseRoom, column: index }
          : figure(`column ${index}`, signal, reduce, index)
      );
    case 'status':
    case 'text':
    case 'alarms':
    case 'incidents':
    case 'silent':
    case 'resources':
    case 'marks':
    case 'promises':
    case 'log':
      return [];
    default:
      return panel satisfies never;
  }
}

/** By how much earlier a panel is compared. */
export const earlierOf = (own: string | undefined, chosen: Duration | null | undefined): Duration | null =>
  chosen !== undefined ? chosen : own === undefined ? null : durationFromText(own);

/** The same earlier: of all series, since those that are the highest now need not have been it then. */
function before(main: Asked, shift: Duration): Asked {
  const { limit, ...all } = main.signal;
  const signal = limit?.rest === 'leave out' ? all : main.signal;
  return { ...main, name: 'earlier', signal, range: shifted(main.range, shift) };
}

const shifted = ({ from, to }: Range, by: Duration): Range => ({
  from: earlierThan(from, by),
  to: Math.max(earlierThan(from, by) + 1, earlierThan(to, by)) as Instant
});

/** Whether a panel has numbers at all. */
export const hasSignal = (panel: Panel): boolean => signalsOf(panel).length > 0;

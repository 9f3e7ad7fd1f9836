import type { DateForm, SnapshotColumn } from '$lib/core/board';
import { exactMoment, peopleAge, peopleDay, peopleMoment, type Instant } from '$lib/core/time';
import { digits, displayScale, fixed, unit } from '$lib/core/units';

/** Where and when a date is read. */
interface Moment {
  readonly at: Instant;
  readonly now: Instant;
  readonly zone: string;
}

/** How the figures of one column are written: all on one scale. */
export interface ColumnFormat {
  /** UCUM code of the figures. */
  readonly code: string;
  /** The unit as the heading says it; empty for none. */
  readonly unit: string;
  written(value: number): string;
  /** The same exactly, for hovering; null where nothing is left out. */
  exact(value: number): string | null;
  /** Where a figure lies between the ends of its shade or bar, from 0 to 1. */
  part(value: number): number;
}

/**
 * How a column is written.
 *
 * @param code of the unit of its figures
 * @param figures of all its rows: they share one scale
 * @param momentOf what is known of the reader at an instant
 */
export function columnFormat(
  { signal, show, plain, date = 'ago' }: SnapshotColumn,
  code: string,
  figures: readonly number[],
  momentOf: (at: Instant) => Moment
): ColumnFormat {
  const { bounds } = unit(code);
  const [low, high] = bounds ?? [Math.min(0, ...figures), Math.max(0, ...figures)];
  const part = (value: number) => (high > low ? Math.min(1, Math.max(0, (value - low) / (high - low))) : 0);
  if (show === 'date') {
    const instant = (value: number) => Math.round(code === 'ms' ? value : value * 1000) as Instant;
    return {
      code,
      unit: '',
      written: (value) => dated(momentOf(instant(value)), date),
      exact: (value) => dated(momentOf(instant(value)), 'exact'),
      part
    };
  }
  const scale = plain ? { divisor: 1, text: '' } : displayScale(code, bounds ?? figures);
  return {
    code,
    unit: scale.text,
    written: (value) =>
      signal.digits === undefined ? digits(value / scale.divisor) : fixed(value / scale.divisor, signal.digits),
    exact: () => null,
    part
  };
}

/** The farthest instant that a date is written of; what is beyond is no instant but another number. */
const farthest = 8.64e15;

function dated({ at, now, zone }: Moment, form: DateForm): string {
  if (!Number.isFinite(at) || Math.abs(at) > farthest) return 'no date';
  switch (form) {
    case 'ago':
      return peopleAge(at, now);
    case 'day':
      return peopleDay(at, zone);
    case 'moment':
      return peopleMoment(at, now, zone);
    case 'exact':
      return exactMoment(at, zone);
    default:
      throw new TypeError(`dated: unknown form ${String(form satisfies never)}`);
  }
}

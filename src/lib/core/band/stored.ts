import type { Instant } from '../time';
import type { BandModel, Season } from './model';
import type { Transform } from './transform';

/**
 * A model with numbers of single precision, as it is stored: far finer than any band, and the same before and after it was stored.
 *
 * @example modelFromBytes(modelBytes(asStored(model))) // asStored(model)
 */
export function asStored(model: BandModel): BandModel {
  const single = (numbers: Float64Array) => numbers.map(Math.fround);
  const { day, week, below, above, level } = model;
  return {
    ...model,
    ...{ day: single(day), week: single(week), below: single(below), above: single(above) },
    level: Math.fround(level)
  };
}

/** What stands before the numbers. */
interface Head {
  readonly version: 1;
  readonly transform: Transform;
  readonly slot: number;
  readonly season: Season;
  readonly until: number;
  readonly days: number;
  /** How many numbers the seasons of day and week have. */
  readonly day: number;
  readonly week: number;
}

const hours = 24;
/** No more is accepted of what is read. */
const most = { head: 1000, slots: 10_000 };

/** A model as bytes: a head as JSON behind its length, then the level, the seasons and the widths, four bytes each. */
export function modelBytes({
  transform,
  slot,
  season,
  until,
  days,
  day,
  week,
  below,
  above,
  level
}: BandModel): Uint8Array {
  const head: Head = { version: 1, transform, slot, season, until, days, day: day.length, week: week.length };
  const text = new TextEncoder().encode(JSON.stringify(head));
  const numbers = Float32Array.of(level, ...day, ...week, ...below, ...above);
  const bytes = new Uint8Array(2 + text.length + numbers.byteLength);
  const view = new DataView(bytes.buffer);
  view.setUint16(0, text.length);
  bytes.set(text, 2);
  numbers.forEach((number, i) => view.setFloat32(2 + text.length + 4 * i, number));
  return bytes;
}

/** Reads what {@link modelBytes} wrote. @returns null for what it did not write */
export function modelFromBytes(bytes: Uint8Array): BandModel | null {
  if (bytes.length < 2) return null;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const length = view.getUint16(0);
  if (length > most.head || bytes.length < 2 + length) return null;
  const head = headFrom(new TextDecoder().decode(bytes.subarray(2, 2 + length)));
  if (head === null || bytes.length !== 2 + length + 4 * (1 + head.day + head.week + 2 * hours)) return null;
  let place = 2 + length;
  const next = (count: number) =>
    Float64Array.from({ length: count }, () => {
      const number = view.getFloat32(place);
      place += 4;
      return number;
    });
  const [level = NaN] = next(1);
  const { transform, slot, season, until, days } = head;
  const [day, week, below, above] = [next(head.day), next(head.week), next(hours), next(hours)];
  return {
    ...{ transform, season, days, level },
    ...{
      day: day,
      week: week,
      below: below,
      above: above
    },
    slot: slot as BandModel['slot'],
    until: until as Instant
  };
}

function headFrom(text: string): Head | null {
  try {
    const head = JSON.parse(text) as Head;
    const isCount = (count: unknown) =>
      Number.isInteger(count) && (count as number) >= 0 && (count as number) <= most.slots;
    return head.version === 1 && isCount(head.day) && isCount(head.week) ? head : null;
  } catch (error) {
    if (error instanceof SyntaxError) return null;
    throw error;
  }
}

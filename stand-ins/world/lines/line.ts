import { loadOf, type Role } from '../load';
import { seriesKey, unitNoise } from '../noise';

/** A line as a part of Corallo Lines writes it. */
export interface WorldLine {
  /** Milliseconds since the epoch. */
  readonly at: number;
  /** 1 to 24, as OpenTelemetry numbers them. */
  readonly severity: number;
  readonly text: string;
  readonly fields: Readonly<Record<string, string | number | boolean>>;
}

export type Written = Omit<WorldLine, 'at'>;

/** What lines are written in: its seed, and the start from which the planted troubles count. */
export interface LineWorld {
  readonly seed: number;
  /** Milliseconds since the epoch. */
  readonly start: number;
}

/** What writes lines, and how. */
export interface WorldStream {
  /** Unlike that of any other. */
  readonly name: string;
  readonly role: Role;
  /** Lines of a minute at a load of 1. */
  readonly rate: number;
  readonly write: (pick: Pick, world: LineWorld) => Written;
  /** Lines that the planted troubles add in a span, in any order. */
  readonly troubled?: (world: LineWorld, from: number, to: number) => WorldLine[];
  /** From when on it writes nothing any more. */
  readonly silentFrom?: (world: LineWorld) => number;
}

/** Chooses for one line, the same whenever it is asked. */
export interface Pick {
  readonly at: number;
  /** A number of its own below 1, by a number of what it is for. */
  unit(what: number): number;
  whole(what: number, from: number, to: number): number;
  of<One>(what: number, all: readonly One[]): One;
}

const minute = 60_000;
export const debug = 5;
export const info = 9;
export const warn = 13;
export const error = 17;
export const fatal = 21;

/**
 * The lines that a stream writes in a span, in order: the same for the same seed, however the span is cut.
 *
 * @param from milliseconds since the epoch, and `to`, before which they are
 * @param times how many times as many as usual
 * @example linesOf(worldStreams[0], { seed: 1, start }, from, from + 60_000)
 */
export function linesOf(stream: WorldStream, world: LineWorld, from: number, to: number, times = 1): WorldLine[] {
  const key = seriesKey(world.seed, `lines of ${stream.name}`);
  if (stream.silentFrom !== undefined) to = Math.min(to, stream.silentFrom(world));
  const lines: WorldLine[] = [];
  for (let begin = Math.floor(from / minute) * minute; begin < to; begin += minute) {
    const expected = stream.rate * times * loadOf(stream.role, begin);
    const count = Math.floor(expected + unitNoise(key, begin / minute));
    for (let index = 0; index < count; index++) {
      const at = begin + Math.floor(((index + unitNoise(key ^ 0x51, begin + index)) / count) * minute);
      if (at < from || at >= to) continue;
      lines.push({ at, ...stream.write(pickOf(key, at, index), world) });
    }
  }
  const troubled = (stream.troubled?.(world, from, to) ?? []).filter(({ at }) => at >= from && at < to);
  return troubled.length === 0 ? lines : [...lines, ...troubled].sort((a, b) => a.at - b.at);
}

/** Chooses for a line of a stream by its moment and its number. */
export function pickOf(key: number, at: number, index: number): Pick {
  const own = key ^ Math.imul(index + 1, 0x9e3779b1);
  const unit = (what: number): number => unitNoise(own ^ Math.imul(what + 1, 0x85ebca6b), at);
  return {
    at,
    unit,
    whole: (what, from, to) => from + Math.floor(unit(what) * (to - from + 1)),
    of: (what, all) => all[Math.floor(unit(what) * all.length)] as never
  };
}

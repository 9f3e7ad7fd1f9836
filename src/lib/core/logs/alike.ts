import { groupBy } from '../lists/group-by';
import { day, instant, type Instant, type Range } from '../time';
import type { Shape } from './shapes';

/** Shapes that a list has. */
export const mostAlike = 30;

/** A shape among what a search found. */
export interface FoundShape {
  readonly streamId: number;
  readonly shape: number;
  /** What its lines have in common, as they have it. */
  readonly text: string;
  /** Lines of it that were found. */
  readonly count: number;
  /** Lines of it in all, as long as it is known. */
  readonly all: number;
  readonly firstAt: Instant;
  readonly lastAt: Instant;
  /** When there was the first line of its stream, of whatever shape. */
  readonly streamSince: Instant;
}

/** A shape as a page shows it. */
export interface ShownShape extends FoundShape {
  readonly stream: string;
}

/** Shapes of several streams that read the same, as one. */
export interface AlikeLines extends Omit<ShownShape, 'streamId' | 'shape' | 'stream'> {
  readonly of: readonly Pick<ShownShape, 'stream' | 'shape'>[];
}

/**
 * Puts shapes together that read the same in several streams, such as the lines of several copies of one program.
 *
 * @returns the one with the most lines first
 * @example together(shapes)[0].of.length // 4
 */
export function together(shapes: readonly ShownShape[]): AlikeLines[] {
  return [...groupBy(shapes, ({ text }) => text)]
    .map(([text, same]) => ({
      text,
      count: same.reduce((sum, { count }) => sum + count, 0),
      all: same.reduce((sum, { all }) => sum + all, 0),
      firstAt: instant(Math.min(...same.map(({ firstAt }) => firstAt))),
      lastAt: instant(Math.max(...same.map(({ lastAt }) => lastAt))),
      streamSince: instant(Math.min(...same.map(({ streamSince }) => streamSince))),
      of: same.map(({ stream, shape }) => ({ stream, shape }))
    }))
    .sort((a, b) => b.count - a.count);
}

/** The words of a shape as lines of it have them: without spaces where programs write none. @example shapeText(['took', '=', '‹duration›', ',', 'ok']) // 'took=‹duration›, ok' */
export const shapeText = (words: Shape['words']): string =>
  words
    .join(' ')
    .replace(/ ?(=) ?/g, '$1')
    .replace(/ ([,;:.!?)\]}]+)(?= |$)/g, '$1')
    .replace(/([([{]) /g, '$1')
    .replace(/" ([^"]*?) ?"/g, '"$1"');

/** A shape counts as new for so long. */
const newFor = day;
/** Lines from which on a shape can be more than usual, and how many times as many as usual that is. */
const leastMany = 10;
const manyTimes = 3;
/** What is usual is only known of a shape that was there before for so many times as long as what is looked at. */
const leastBefore = 2;

/** What is to be said of a shape: that there was none of it until a day ago, or many times as many lines of it as there usually are. */
export interface ShapeNews {
  readonly isNew: boolean;
  /** How many times as many as usual; null where that is not many, or not known. */
  readonly times: number | null;
}

/**
 * Whether a shape is new in a stream that is there for longer, or there is more of it than usual: in the time before the range, as far as it is known, it had so many lines a second, and in the range many times as many.
 *
 * @param range in which its lines were found, all of them
 * @example shapeNews(shape, range, now).times // 4.2
 */
export function shapeNews(
  { count, all, firstAt, streamSince }: Pick<FoundShape, 'count' | 'all' | 'firstAt' | 'streamSince'>,
  { from, to }: Range,
  now: Instant
): ShapeNews {
  const isNew = firstAt > now - newFor && streamSince <= now - newFor;
  const before = from - firstAt;
  const length = to - from;
  if (count < leastMany || before < leastBefore * length || length <= 0) return { isNew, times: null };
  const usual = (Math.max(1, all - count) / before) * length;
  const times = count / usual;
  return { isNew, times: times >= manyTimes ? times : null };
}

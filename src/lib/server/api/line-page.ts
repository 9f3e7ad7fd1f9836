import { Refusal } from '$lib/core/problem/problem';
import { range, type Instant, type Range } from '$lib/core/time';
import { noCursor, type Page } from './paging';

/** Lines of one moment, ms, of which a page may end between two. */
const mostOfOneMoment = 1000;

interface Timed {
  readonly key: string;
  readonly at: Instant;
}

/**
 * What is searched for a page of lines: times are milliseconds, of which a page may end amid one, so the next begins with all lines of that one again and leaves out those that were shown.
 *
 * @param whole the range of the search
 * @returns the range and how many of the newest lines are read of it; `shownOf` gives those of the page
 * @throws Refusal `invalid` for a cursor of another list; from `shownOf`, where one moment has more lines than can be told apart
 */
export function linePage(
  whole: Range,
  { limit, after }: Page
): { within: Range; most: number; shownOf: <Line extends Timed>(lines: readonly Line[]) => readonly Line[] } {
  if (after === null) return { within: whole, most: limit, shownOf: (lines) => lines };
  const [at, key] = after;
  if (typeof at !== 'number' || typeof key !== 'string' || !(at >= whole.from && at < whole.to)) throw noCursor();
  const most = limit + mostOfOneMoment;
  return {
    within: range(whole.from, (at + 1) as Instant),
    most,
    shownOf: (lines) => {
      const last = lines.findIndex((line) => line.key === key);
      if (last !== -1) return lines.slice(last + 1, last + 1 + limit);
      if (lines.length === most && lines.every((line) => line.at === at))
        throw new Refusal(
          'invalid',
          `More than ${mostOfOneMoment} lines have the same time.`,
          'Search for less, so that fewer lines are found.',
          { path: ['cursor'] }
        );
      // It was removed meanwhile.
      return lines.filter((line) => line.at < at).slice(0, limit);
    }
  };
}

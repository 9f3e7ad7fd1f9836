import { firstAtOrAfter, slicePoints, type BatchBlock } from '$lib/core/series';
import { minute, times, type Instant } from '$lib/core/time';
import { isFullDisk, noRoom } from '../../base/disk';
import { count } from '../../base/own-counters';
import { noteDropped } from './collections';
import { saveExemplars } from '../../inventory/exemplars';
import type { Intake } from './intake';
import type { FetchedSeries } from '../../providers/port/provider';

/** A sample later than this behind now comes from a clock that is wrong. */
const toleratedFuture = times(10, minute);

/** What keeping some series came to. */
export interface Kept {
  /** Points that said something new. */
  readonly written: number;
  readonly newest: Instant | null;
}

/**
 * Stores fetched or received series: finds their ids, drops what lies in the future or belongs to no known resource (counted, with the reason), and appends the rest
 * to the journal. When this resolves, they are stored.
 *
 * @throws DiskIsLow when there is no room for them
 */
export async function storeSeries(
  { store, book, db, disk }: Pick<Intake, 'store' | 'book' | 'db' | 'disk'>,
  accountId: number,
  service: string,
  series: readonly FetchedSeries[],
  receivedAt: Instant
): Promise<Kept> {
  if (series.length === 0) return { written: 0, newest: null };
  disk.refuseWhenLow();
  const ids = await book.idsOf(accountId, series);
  const blocks: BatchBlock[] = [];
  const unknown: FetchedSeries[] = [];
  const future: FetchedSeries[] = [];
  let tooNew = 0;
  for (const [index, one] of series.entries()) {
    const seriesId = ids[index] ?? null;
    if (seriesId === null) {
      unknown.push(one);
      continue;
    }
    const { at } = one.points;
    const end = firstAtOrAfter(at, at.length, receivedAt + toleratedFuture);
    if (end < at.length) {
      future.push(one);
      tooNew += at.length - end;
    }
    if (end > 0)
      blocks.push({
        seriesId,
        points: end === at.length ? one.points : slicePoints(one.points, 0, receivedAt + toleratedFuture)
      });
  }
  const dropped = (reason: string, count: number, first: FetchedSeries | undefined) =>
    count > 0 ? [{ reason, count, example: `${first?.metric} of ${first?.resource}` }] : [];
  const ofUnknown = unknown.reduce((sum, { points }) => sum + points.at.length, 0);
  await noteDropped(
    db,
    accountId,
    service,
    [...dropped('resource not known', ofUnknown, unknown[0]), ...dropped('from the future', tooNew, future[0])],
    receivedAt
  );
  const { written, newest } = await store.append(accountId, receivedAt, blocks).catch((error: unknown) => {
    throw isFullDisk(error) ? noRoom(error) : error;
  });
  count('samples', written);
  await saveExemplars(
    db,
    accountId,
    series.flatMap(({ exemplars = [] }, index) => {
      const seriesId = ids[index] ?? null;
      return seriesId === null
        ? []
        : [{ seriesId, exemplars: exemplars.filter(({ at }) => at > 0 && at < receivedAt + toleratedFuture) }];
    })
  );
  return { written, newest: newest as Instant | null };
}

import { refusals, type Received, type ReceivedSeries, type RefusalReason } from '$lib/core/receive';
import type { Instant } from '$lib/core/time';
import { columnsOf, isSound } from '../../providers/port/points';
import { beginCollections, notePull, pushedService } from '../ledger/collections';
import { storeSeries } from '../ledger/store-series';
import { saveMetrics } from '../../inventory/metrics';
import type { FetchedSeries } from '../../providers/port/provider';
import { pushedProvider } from '../../inventory/self-described';
import { saveDiscovered } from '../../inventory/resources';
import type { Intake } from '../ledger/intake';
import type { TakeTurns } from '../../base/take-turns';
import type { Intervals } from './intervals';
import type { LatelyDescribed } from './lately-described';
import { fitting } from './described';
import { noteLearned } from './intervals';
import type { Key } from './keys';

/** What receiving came to, in points as they were sent: a histogram is one, whatever it comes apart into. */
export interface Taken {
  readonly accepted: number;
  readonly rejected: number;
  /** How many were refused for each reason. */
  readonly reasons: Readonly<Record<string, number>>;
  readonly faults: readonly string[];
}

/** What receiving needs. */
export interface Receiver extends Pick<Intake, 'db' | 'clock' | 'store' | 'disk' | 'book' | 'changes' | 'log'> {
  readonly turns: TakeTurns;
  readonly intervals: Intervals;
  readonly described: LatelyDescribed;
}

/** Counts what is refused, by reason. */
class Refused {
  readonly faults: string[];
  readonly counts = new Map<RefusalReason, { count: number; example: string }>();

  constructor({ refused, faults }: Received) {
    this.faults = [...faults];
    for (const { reason, count, example } of refused) this.counts.set(reason, { count, example });
  }

  add(series: ReceivedSeries, reason: RefusalReason, fault: string, points = series.points.length): void {
    const known = this.counts.get(reason);
    const count = (known?.count ?? 0) + points * series.weight;
    if (count > 0) this.counts.set(reason, { count, example: known?.example ?? fault });
    if (!this.faults.includes(fault) && this.faults.length < 30) this.faults.push(fault);
  }

  get total(): number {
    return [...this.counts.values()].reduce((sum, { count }) => sum + count, 0);
  }
}

/**
 * Stores what was read from a request: metrics with their units and kinds as the data say, resources as they are named. What does not fit what is known, and series
 * beyond the key's limit, are refused and counted. When this resolves, what was accepted is stored. Requests of one key take turns, so that its limits hold.
 */
export function storeReceived(
  receiver: Receiver,
  key: Pick<Key, 'accountId' | 'name' | 'mostSeries'>,
  received: Received
): Promise<Taken> {
  return storeDescribed(receiver, { ...key, kind: 'key', ...pushed }, received);
}

/** How what an account describes for itself is stored. */
export interface Describing {
  readonly accountId: number;
  /** What it is, and what it is called, to people. */
  readonly kind: 'key' | 'account';
  readonly name: string;
  readonly mostSeries: number;
  readonly provider: string;
  readonly service: string;
  readonly resourceType: string;
  /** How far apart its samples come, and how late, until more is known. */
  readonly samplingMs: number;
  readonly delayMs: number;
  /** What metrics are called, by their names; by these unless it is said. */
  readonly titles?: Readonly<Record<string, string>>;
}

/** What programs send by themselves. */
const pushed = {
  ...{ provider: pushedProvider, service: pushedService, resourceType: pushedService },
  ...{ samplingMs: 60_000, delayMs: 60_000 }
} as const;

/** {@link storeReceived} for whatever describes its metrics itself. */
export function storeDescribed(receiver: Receiver, of: Describing, received: Received): Promise<Taken> {
  return receiver.turns.take(`account ${of.accountId}`, () => keepInTurn(receiver, of, received));
}

async function keepInTurn(receiver: Receiver, key: Describing, received: Received): Promise<Taken> {
  const { db, clock, book, changes, intervals } = receiver;
  const now = clock.now();
  const refused = new Refused(received);
  const fits: ReceivedSeries[] = [];
  for (const [index, one] of (await fitting(db, key.accountId, received.series)).entries())
    if (one.kind === 'fits') fits.push(one.series);
    else refused.add(received.series[index] as ReceivedSeries, one.reason, `${one.why}.`);
  const room = await withinRoom(receiver, key, fits, refused);
  const sound = room.flatMap((one) => {
    if (one.points.length > 0 && one.points.every(isSound)) return [one];
    const kept = one.points.map((point, index) => ({ point, index })).filter(({ point }) => isSound(point));
    if (kept.length < one.points.length)
      refused.add(
        one,
        refusals.notFinite,
        `${one.metric.name}: values beyond what can be stored.`,
        one.points.length - kept.length
      );
    if (kept.length === 0) return [];
    const points = kept.map(({ point }) => point);
    return [{ ...one, points, starts: kept.map(({ index }) => one.starts[index] ?? null) }];
  });
  const news = receiver.described.news(key.accountId, sound);
  if (news.length > 0) {
    await describe(receiver, key, news, now);
    receiver.described.note(key.accountId, news);
  }
  const ids = await book.idsOf(key.accountId, sound.map(identityOf));
  const known = sound.flatMap((series, index) => {
    const seriesId = ids[index] ?? null;
    return seriesId === null ? [] : [{ seriesId, series }];
  });
  const { points, learned } = await intervals.learn(known);
  await noteLearned(db, learned);
  const fetched = known.map(({ series }, index): FetchedSeries => ({
    ...identityOf(series),
    points: columnsOf(points[index] ?? [])
  }));
  const { written, newest } = await storeSeries(receiver, key.accountId, key.service, fetched, now);
  const accepted = known.reduce((sum, { series }) => sum + series.points.length * series.weight, 0);
  const dropped = [...refused.counts].map(([reason, { count, example }]) => ({ reason, count, example }));
  await notePull(db, key.accountId, key.service, {
    startedAt: now,
    finishedAt: now,
    points: written,
    requests: 1,
    throttled: 0,
    refused: refused.total,
    error: null,
    newestAt: newest,
    pulledUntil: now,
    lateUntil: null,
    notBefore: null,
    dropped
  });
  changes.tell('account', { accountId: key.accountId });
  if (written > 0) changes.tell('samples', { accountId: key.accountId });
  const reasons = Object.fromEntries([...refused.counts].map(([reason, { count }]) => [reason, count]));
  return { accepted, rejected: refused.total, reasons, faults: refused.faults };
}

const identityOf = ({ resource, metric, labels }: ReceivedSeries) => ({
  resource: resource.id,
  metric: metric.name,
  labels
});

/** The series that fit into what a key may have: those that are known, and the first new ones while there is room. */
async function withinRoom(
  { book }: Receiver,
  key: Describing,
  series: readonly ReceivedSeries[],
  refused: Refused
): Promise<readonly ReceivedSeries[]> {
  const room = key.mostSeries - (await book.count(key.accountId));
  if (series.length <= room) return series;
  if ((await book.countNew(key.accountId, series.map(identityOf))) <= room) return series;
  const known = await book.areKnown(key.accountId, series.map(identityOf));
  let left = room;
  const kept = series.filter((_one, index) => known[index] === true || left-- > 0);
  const dropped = series.filter((one) => !kept.includes(one));
  const fault = `The ${key.kind} ${key.name} may have ${key.mostSeries} series; ${dropped.length} more were not taken, first ${dropped[0]?.metric.name ?? ''}.`;
  for (const one of dropped) refused.add(one, refusals.tooManySeries, fault);
  return kept;
}

/** Metrics and resources as the data describe them. */
async function describe(
  { db }: Receiver,
  { accountId, provider, service, resourceType, samplingMs, delayMs, titles = {} }: Describing,
  series: readonly ReceivedSeries[],
  now: Instant
): Promise<void> {
  const metrics = new Map(series.map(({ metric }) => [metric.name, metric]));
  const resources = new Map(series.map(({ resource }) => [resource.id, resource]));
  await db.transaction(async (within) => {
    await saveMetrics(
      within,
      provider,
      [...metrics.values()].map(({ name, description, unit, kind }) => ({
        ...{ name, title: titles[name] ?? name, description, unit, kind, shape: 'single', resourceType, service },
        ...{ recommended: true, level: 'host', samplingMs, delayMs }
      })),
      accountId
    );
    const found = [...resources.values()].map(({ id, name, tags }) => ({
      ...{ providerId: id, name, type: resourceType, service, region: '', tags },
      ...{ guest: 'none' as const, formerNames: [] }
    }));
    await saveDiscovered(within, accountId, found, now, false);
    await beginCollections(within, accountId, [service]);
  });
}

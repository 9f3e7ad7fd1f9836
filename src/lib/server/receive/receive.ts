import { gunzipSync } from 'node:zlib';
import type { Received, ReceivedSeries } from '$lib/core/receive';
import type { Instant } from '$lib/core/time';
import { columnsOf, isSound } from '../intake/points';
import { beginCollections, noteDropped, notePull, pushedService } from '../intake/collections';
import { keepSeries } from '../intake/keep';
import type { FetchedSeries } from '../intake/provider';
import { keepMetrics } from '../intake/metrics';
import { keepFound } from '../intake/resources';
import type { Bussola } from '../start';
import { bytesOn, keyByText, noteUse, type Key, type KeyScope } from './keys';

/** A request that is not taken: its status, and in words what is wrong and what to do. */
export class NotTaken extends Error {
  readonly status: number;
  readonly remedy: string;

  constructor(status: number, message: string, remedy: string) {
    super(message);
    this.status = status;
    this.remedy = remedy;
  }
}

/** A body larger than this, unpacked, is refused. */
const mostBytes = 32 * 1024 * 1024;

/**
 * The key of a request and its body, unpacked.
 *
 * @throws NotTaken without a good key (401), beyond its bytes of a day (429), or for a body that cannot be unpacked (400, 413)
 */
export async function admitted(
  { db, clock }: Bussola,
  request: Request,
  scope: KeyScope
): Promise<{ key: Key; body: Buffer }> {
  const text = /^Bearer (\S+)$/.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
  const key = text === '' ? null : await keyByText(db, text, clock.now());
  if (key === null || !key.scopes.includes(scope))
    throw new NotTaken(
      401,
      'The key is missing, not from here, revoked or has run out.',
      'Send a key of Bussola as "Authorization: Bearer …"; keys are made on the page Keys.'
    );
  if (!request.headers.has('content-type'))
    throw new NotTaken(
      415,
      'The request has no content type, so its body cannot be read.',
      'Send a Content-Type, such as text/plain or application/json.'
    );
  const packed = Buffer.from(await request.arrayBuffer());
  if (bytesOn(key, clock.now()) + packed.length > key.mostBytesADay)
    throw new NotTaken(
      429,
      `The key ${key.name} may send ${key.mostBytesADay} bytes a day, and has.`,
      'Send less, or let an editor make a key with a higher limit.'
    );
  await noteUse(db, key.id, packed.length, clock.now());
  return { key, body: unpacked(packed, request.headers.get('content-encoding')) };
}

function unpacked(packed: Buffer, encoding: string | null): Buffer {
  if (encoding === null || encoding === 'identity') return packed;
  if (encoding !== 'gzip')
    throw new NotTaken(415, `The encoding ${encoding} is not known here.`, 'Send it as it is, or packed by gzip.');
  try {
    return gunzipSync(packed, { maxOutputLength: mostBytes });
  } catch (error) {
    const tooLarge = (error as { code?: string }).code === 'ERR_BUFFER_TOO_LARGE';
    throw tooLarge
      ? new NotTaken(413, `Unpacked, the body has more than ${mostBytes / 1048576} MiB.`, 'Send it in several parts.')
      : new NotTaken(400, 'The body is not packed by gzip as it says.', 'Send it again.');
  }
}

/** What receiving came to. */
export interface Taken {
  readonly accepted: number;
  readonly rejected: number;
  readonly faults: readonly string[];
}

/**
 * Keeps what was read from a request: metrics with their units and kinds as the data say, resources as they are named. Series beyond the key's limit are rejected.
 * When this resolves, what was accepted is kept.
 */
export async function keepReceived(server: Bussola, key: Key, received: Received): Promise<Taken> {
  const { db, clock, book, changes } = server;
  const now = clock.now();
  const faults = [...received.faults];
  let rejected = received.rejected;
  const wanted = received.series.map(asFetched);
  const room = key.mostSeries - (await book.count(key.accountId));
  const kept =
    (await book.countNew(key.accountId, wanted)) <= room
      ? received.series
      : await withinRoom(server, key, received.series, room);
  if (kept.length < received.series.length) {
    const dropped = received.series.filter((one) => !kept.includes(one));
    rejected += dropped.reduce((sum, { points }) => sum + points.length, 0);
    faults.push(
      `The key ${key.name} may have ${key.mostSeries} series; ${dropped.length} more were not taken, first ${dropped[0]?.metric.name ?? ''}.`
    );
  }
  const fetched: FetchedSeries[] = [];
  for (const one of kept) {
    const sound = one.points.filter(isSound);
    if (sound.length < one.points.length) {
      rejected += one.points.length - sound.length;
      faults.push(`${one.metric.name}: ${one.points.length - sound.length} values cannot be kept.`);
    }
    if (sound.length > 0) fetched.push({ ...asFetched(one), points: columnsOf(sound) });
  }
  await describe(server, key, kept, now);
  const { written, newest } = await keepSeries(server, key.accountId, pushedService, fetched, now);
  const accepted = fetched.reduce((sum, { points }) => sum + points.at.length, 0);
  if (rejected > 0)
    await noteDropped(db, key.accountId, pushedService, 'refused when it was sent', rejected, faults[0] ?? '', now);
  await notePull(db, key.accountId, pushedService, {
    startedAt: now,
    finishedAt: now,
    points: written,
    requests: 1,
    throttled: 0,
    refused: rejected,
    error: null,
    newestAt: newest,
    pulledUntil: now,
    lateUntil: null,
    notBefore: null
  });
  changes.tell('account', { accountId: key.accountId });
  if (written > 0) changes.tell('samples', { accountId: key.accountId });
  return { accepted, rejected, faults };
}

const asFetched = ({ resource, metric, labels }: ReceivedSeries): FetchedSeries => ({
  resource: resource.id,
  metric: metric.name,
  labels,
  points: columnsOf([])
});

/** The series that fit: those that are known, and the first new ones while there is room. */
async function withinRoom(
  { book }: Bussola,
  key: Key,
  series: readonly ReceivedSeries[],
  room: number
): Promise<ReceivedSeries[]> {
  const kept: ReceivedSeries[] = [];
  let left = room;
  for (const one of series) {
    const isNew = (await book.countNew(key.accountId, [asFetched(one)])) > 0;
    if (isNew && left <= 0) continue;
    if (isNew) left--;
    kept.push(one);
  }
  return kept;
}

/** Metrics and resources as the data tell of them. */
async function describe({ db }: Bussola, key: Key, series: readonly ReceivedSeries[], now: Instant): Promise<void> {
  const metrics = new Map(series.map(({ metric }) => [metric.name, metric]));
  const resources = new Map(series.map(({ resource }) => [resource.id, resource]));
  await db.transaction(async (within) => {
    await keepMetrics(
      within,
      pushedService,
      [...metrics.values()].map(({ name, description, unit, kind }) => ({
        name,
        title: name,
        description,
        unit,
        kind,
        shape: 'single',
        resourceType: pushedService,
        service: pushedService,
        recommended: true,
        level: 'host',
        samplingMs: 60_000,
        delayMs: 60_000
      }))
    );
    const found = [...resources.values()].map(({ id, name, tags }) => ({
      providerId: id,
      name,
      type: pushedService,
      service: pushedService,
      region: '',
      tags,
      guest: 'none' as const,
      formerNames: []
    }));
    await keepFound(within, key.accountId, found, now, false);
    await beginCollections(within, key.accountId, [pushedService]);
  });
}

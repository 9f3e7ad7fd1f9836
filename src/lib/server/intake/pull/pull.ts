import { isRefused } from '$lib/core/problem/problem';
import { before, day, hour, minute, range, times, type Duration, type Instant, type Range } from '$lib/core/time';
import { confirmDuty, type Held } from '../../duties/duties';
import { accountById, noteClock, type Account, type AccountError } from '../../inventory/accounts';
import { collectionOf, notePull, noteResting, type Collection } from '../ledger/collections';
import { addGap, fillGap, pieceOf, type Gap } from './gaps';
import { accessOf, errorOf, providerOf, type Intake } from '../ledger/intake';
import { storeSeries } from '../ledger/store-series';
import { ProviderError, type FetchedSeries, type ProviderAccess } from '../../providers/port/provider';
import { wantedOf, type RequestedPart } from './requested';

/** What one pull brings at most: the first of an account, so that something is seen at once, and one after an outage; the rest is filled in behind it. */
const longestLook = hour;
/** Metrics that come hours late are requested this often, and this far back after an outage. */
export const lateEvery = times(15, minute);
const longestLate = times(2, day);
/** When a provider is later than it declares, pulls reach back to the newest sample seen, this far at most. */
const longestBehind = times(6, hour);

interface Tally {
  points: number;
  refused: number;
  refusedExample: string | null;
  newestAt: Instant | null;
}

/**
 * Pulls one service of an account: fetches what is new into the journal, notes how it went. Pulls overlap by the longest reporting delay, so that late points are
 * caught; known ones cost nothing. A failure is noted and reported, not thrown: the next pull requests the same span again, so nothing is lost. What was missed for
 * longer than an hour is noted as a gap and filled behind.
 *
 * @param held the duty under which it is pulled: where another process has taken that over, nothing is noted
 * @returns whether the pull succeeded
 */
export async function pullService(
  intake: Intake,
  accountId: number,
  service: string,
  held: Held | null = null
): Promise<boolean> {
  const { db, clock } = intake;
  const startedAt = clock.now();
  const tally: Tally = { points: 0, refused: 0, refusedExample: null, newestAt: null };
  let error: AccountError | null = null;
  let pulledUntil: Instant | null = null;
  let lateUntil: Instant | null = null;
  let notBefore: Instant | null = null;
  let access: ProviderAccess | null = null;
  try {
    const account = await accountById(db, accountId);
    const collection = await collectionOf(db, accountId, service);
    if (account === null || collection === null) return false;
    intake.disk.refuseWhenLow();
    access = await accessOf(intake, account);
    const { prompt, late } = await wantedOf(db, account, service);
    const span = await promptSpan(intake, account, collection, prompt, startedAt);
    await fetchInto(intake, account, service, access, prompt, span, startedAt, tally);
    pulledUntil = startedAt;
    const lateFrom = collection.lateUntil ?? before(startedAt, longestLook);
    if (
      late.resources.length > 0 &&
      (collection.lateUntil === null || startedAt - lateFrom >= lateEvery || startedAt < lateFrom)
    ) {
      const from = before(lateFrom, (late.behindMs + 2 * minute) as Duration);
      const lateSpan = range(Math.max(from, before(startedAt, longestLate)) as Instant, startedAt);
      await fetchInto(intake, account, service, access, late, lateSpan, startedAt, tally);
      lateUntil = startedAt;
    }
  } catch (failure) {
    error = errorOf(failure, startedAt);
    if (failure instanceof ProviderError && failure.code === 'paused') {
      await noteResting(db, accountId, service, error);
      return false;
    }
    if (!(failure instanceof ProviderError || isRefused(failure, 'disk-low')))
      intake.log.error({ err: failure, accountId, service }, 'pull failed');
    else if (failure instanceof ProviderError && failure.retryAfter !== null)
      notBefore = (startedAt + failure.retryAfter) as Instant;
  }
  error ??= refusedError(tally, startedAt);
  const outcome = { startedAt, error, pulledUntil, lateUntil, notBefore };
  await note(intake, accountId, service, access, tally, outcome, false, held);
  return error === null;
}

/**
 * Fetches one more piece of a gap.
 *
 * @returns whether it succeeded
 */
export async function fillPiece(intake: Intake, gap: Gap, held: Held | null = null): Promise<boolean> {
  const { db, clock, providers } = intake;
  const account = await accountById(db, gap.accountId);
  if (account === null) return false;
  const provider = providerOf(providers, account);
  const startedAt = clock.now();
  const oldest = before(startedAt, provider.reach);
  if (gap.to <= oldest) {
    await fillGap(db, gap, { from: gap.from, to: gap.to }); // the provider has it no more
    return true;
  }
  const piece = pieceOf(gap, provider.historyPiece);
  const span = range(Math.max(piece.from, Math.min(oldest, piece.to)) as Instant, piece.to);
  const tally: Tally = { points: 0, refused: 0, refusedExample: null, newestAt: null };
  const access = await accessOf(intake, account);
  let error: AccountError | null = null;
  try {
    const { prompt, late } = await wantedOf(db, account, gap.service);
    for (const half of [prompt, late])
      await fetchInto(intake, account, gap.service, access, half, span, startedAt, tally, true);
    await fillGap(db, gap, piece);
  } catch (failure) {
    if (isRefused(failure, 'disk-low')) return false; // the gap stays, and is filled once there is room
    if (!(failure instanceof ProviderError)) throw failure;
    if (failure.code === 'paused') return false;
    error = errorOf(failure, startedAt); // with an error noted, gaps wait until the next pull has succeeded
  }
  const outcome = { startedAt, error, pulledUntil: null, lateUntil: null, notBefore: null };
  await note(intake, gap.accountId, gap.service, access, tally, outcome, true, held);
  return error === null;
}

/**
 * From where to fetch, and what is left out as a gap. Not only the declared delay counts: while nothing new comes, as when the provider is late itself, the next
 * pull reaches back to the newest sample seen.
 */
async function promptSpan(
  { db }: Intake,
  account: Account,
  { service, pulledUntil, newestAt }: Collection,
  { behindMs }: RequestedPart,
  now: Instant
): Promise<Range> {
  const soonest = before(now, longestLook);
  if (pulledUntil === null) {
    await addGap(db, { accountId: account.id, service, kind: 'history', from: account.historyFrom, to: soonest });
    return range(soonest, now);
  }
  const wantedFrom = before(Math.min(now, pulledUntil) as Instant, (behindMs + 2 * minute) as Duration);
  if (wantedFrom < soonest)
    await addGap(db, { accountId: account.id, service, kind: 'outage', from: wantedFrom, to: soonest });
  const from = Math.max(wantedFrom, soonest);
  const seen = newestAt === null ? from : Math.max(newestAt, before(now, longestBehind));
  return range(Math.min(from, seen) as Instant, now);
}

async function fetchInto(
  intake: Intake,
  account: Account,
  service: string,
  access: ProviderAccess,
  { resources }: RequestedPart,
  span: Range,
  receivedAt: Instant,
  tally: Tally,
  isHistory = false
): Promise<void> {
  if (resources.length === 0 || span.from >= span.to) return;
  const pages = providerOf(intake.providers, account).fetch(access, resources, span);
  for await (const { series, refused, refusedExample } of oneAhead(pages)) {
    // History can wait, and comes in helpings: between two of them, people who ask something get their answer.
    const helpings = isHistory ? inHelpings(series) : [series];
    for (const some of helpings) {
      if (isHistory) await intake.readers.quiet(longestWait);
      const { written, newest } = await storeSeries(intake, account.id, service, some, receivedAt);
      tally.points += written;
      if (newest !== null) tally.newestAt = Math.max(newest, tally.newestAt ?? 0) as Instant;
    }
    tally.refused += refused;
    tally.refusedExample ??= refusedExample;
  }
}

/** How long a helping of history waits for people who read, ms of real time. */
const longestWait = 400;
/** Points of history that are stored at once. */
const helping = 10_000;

/** Series in parts of about {@link helping} points. */
function inHelpings(series: readonly FetchedSeries[]): FetchedSeries[][] {
  const parts: FetchedSeries[][] = [];
  let points = Infinity;
  for (const one of series) {
    if (points >= helping) {
      parts.push([]);
      points = 0;
    }
    parts.at(-1)?.push(one);
    points += one.points.at.length;
  }
  return parts;
}

/** The same pages, each requested while the one before it is being stored. */
async function* oneAhead<T>(pages: AsyncIterable<T>): AsyncGenerator<T> {
  const wantedFrom = pages[Symbol.asyncIterator]();
  let coming = wantedFrom.next();
  try {
    for (;;) {
      const next = await coming;
      if (next.done) return;
      coming = wantedFrom.next();
      coming.catch(() => undefined); // whoever waits for it has the error
      yield next.value;
    }
  } finally {
    await wantedFrom.return?.();
  }
}

function refusedError({ refused, refusedExample }: Tally, at: Instant): AccountError | null {
  if (refused === 0) return null;
  return {
    code: 'refused-values',
    message: `${refused} values were refused because they are not numbers, first ${refusedExample ?? 'unknown'}.`,
    remedy: 'The other values were stored. Report it to the provider.',
    at
  };
}

interface Outcome {
  readonly startedAt: Instant;
  readonly error: AccountError | null;
  readonly pulledUntil: Instant | null;
  readonly lateUntil: Instant | null;
  readonly notBefore: Instant | null;
}

async function note(
  { db, clock, changes }: Intake,
  accountId: number,
  service: string,
  access: ProviderAccess | null,
  { points, refused, refusedExample, newestAt }: Tally,
  outcome: Outcome,
  isHistory: boolean,
  held: Held | null
): Promise<void> {
  const { requests = 0, throttled = 0, clockAheadMs = null } = access?.guard.meter ?? {};
  const finishedAt = clock.now();
  const dropped = refused === 0 ? [] : [{ reason: 'not a number', count: refused, example: refusedExample ?? '' }];
  await db.transaction(async (within) => {
    await confirmDuty(within, held);
    await notePull(
      within,
      accountId,
      service,
      { ...outcome, finishedAt, points, refused, newestAt, requests, throttled, dropped },
      isHistory
    );
    if (clockAheadMs !== null) await noteClock(within, accountId, clockAheadMs);
  });
  changes.tell('account', { accountId });
  if (points > 0) changes.tell('samples', { accountId });
}

/** How much history a new account is asked for. @example historyStart(now, 14) */
export const historyStart = (now: Instant, days: number): Instant => before(now, times(days, day));

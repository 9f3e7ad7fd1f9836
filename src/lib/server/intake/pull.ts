import type { Logger } from 'pino';
import {
  before,
  day,
  hour,
  minute,
  range,
  times,
  type Clock,
  type Duration,
  type Instant,
  type Range
} from '$lib/core/time';
import type { Database } from '../db/pool';
import type { Changes } from '../changes';
import type { SecretBox } from '../secrets';
import type { StoreClient } from '../store/open-store';
import {
  accountById,
  noteDiscovery,
  noteHistory,
  notePull,
  sealedSecretOf,
  type Account,
  type AccountError
} from './accounts';
import { ProviderError, type Provider, type ProviderAccess, type WantedSeries } from './provider';
import { allMetrics, keepFound, wantedSeries } from './resources';

/** What the intake works with. */
export interface Intake {
  readonly db: Database;
  readonly clock: Clock;
  readonly store: StoreClient;
  readonly secrets: SecretBox;
  readonly providers: Readonly<Record<string, Provider>>;
  readonly changes: Changes;
  readonly log: Logger;
}

/** How often resources and metrics are looked up again. */
const discoverEvery = times(10, minute);
/** What the first pull of a new account brings, so that something is seen at once. */
const firstLook = hour;
/** One piece of history: about 18,000 points of 50 series, two pages. */
const historyPiece = times(6, hour);

/**
 * Pulls an account once: discovers when that is due, fetches what is new into the journal, notes how it went. A failure is noted and told, not
 * thrown: the next pull asks for the same span again, so nothing is lost.
 *
 * @returns whether the pull succeeded
 */
export async function pullAccount(intake: Intake, accountId: number): Promise<boolean> {
  const startedAt = intake.clock.now();
  const tally = { points: 0, refused: 0, newestAt: null as Instant | null };
  let refusedExample: string | null = null;
  let error: AccountError | null = null;
  let pulledUntil: Instant | null = null;
  try {
    const account = await accountById(intake.db, accountId);
    if (account === null) return false;
    const access = await accessOf(intake, account);
    await discoverIfDue(intake, account, access, startedAt);
    const span = range(await pullFrom(intake, account, startedAt), startedAt);
    refusedExample = await fetchInto(intake, account, access, span, startedAt, tally);
    pulledUntil = startedAt;
    if (account.historyReached === null) await noteHistory(intake.db, accountId, span.from);
  } catch (failure) {
    error = errorOf(failure, startedAt);
    if (!(failure instanceof ProviderError)) intake.log.error({ err: failure, accountId }, 'pull failed');
  }
  if (refusedExample !== null && error === null)
    error = {
      fault: 'refused values',
      message: `${tally.refused} values were refused because they are not numbers, first ${refusedExample}.`,
      remedy: 'The other values were kept. Tell the provider.',
      at: startedAt
    };
  await notePull(intake.db, accountId, { startedAt, finishedAt: intake.clock.now(), error, pulledUntil, ...tally });
  intake.changes.tell('account', { accountId });
  if (tally.points > 0) intake.changes.tell('samples', { accountId });
  return error === null;
}

/**
 * Fetches one more piece of an account's history, newest first.
 *
 * @returns whether more is left to fetch
 */
export async function pullHistory(intake: Intake, accountId: number): Promise<boolean> {
  const account = await accountById(intake.db, accountId);
  if (account === null || account.historyReached === null || account.historyReached <= account.historyFrom)
    return false;
  const to = account.historyReached;
  const from = Math.max(account.historyFrom, before(to, historyPiece)) as Instant;
  const now = intake.clock.now();
  const tally = { points: 0, refused: 0, newestAt: null as Instant | null };
  try {
    await fetchInto(intake, account, await accessOf(intake, account), range(from, to), now, tally);
  } catch (failure) {
    if (!(failure instanceof ProviderError)) throw failure;
    // With an error noted, history waits until the next pull has succeeded.
    await notePull(intake.db, accountId, {
      startedAt: now,
      finishedAt: now,
      error: errorOf(failure, now),
      pulledUntil: null,
      ...tally
    });
    return false;
  }
  await noteHistory(intake.db, accountId, from);
  intake.changes.tell('account', { accountId });
  intake.changes.tell('samples', { accountId });
  return from > account.historyFrom;
}

/** The sealed credential of an account, opened for one use. */
export const accessOf = async (
  { db, secrets }: Pick<Intake, 'db' | 'secrets'>,
  { id, endpoint, keyId }: Account
): Promise<ProviderAccess> => ({
  endpoint,
  keyId,
  secret: secrets.open(await sealedSecretOf(db, id))
});

export function providerOf(providers: Intake['providers'], account: Pick<Account, 'provider'>): Provider {
  const provider = providers[account.provider];
  if (!provider) throw new Error(`providerOf: no provider "${account.provider}"`);
  return provider;
}

async function discoverIfDue(
  { db, providers }: Intake,
  account: Account,
  access: ProviderAccess,
  now: Instant
): Promise<void> {
  if (account.discoveredAt !== null && now - account.discoveredAt < discoverEvery && now >= account.discoveredAt)
    return;
  const provider = providerOf(providers, account);
  const metrics = await provider.describeMetrics(access);
  const found = await provider.discover(access);
  await db.transaction(async (within) => {
    await keepFound(within, account.id, found, metrics, now);
    await noteDiscovery(within, account.id, now);
  });
}

/** Pulls overlap by the longest reporting delay and two minutes more, so that late points are caught; known ones cost nothing. */
async function pullFrom({ db }: Intake, account: Account, now: Instant): Promise<Instant> {
  if (account.pulledUntil === null) return before(now, firstLook);
  const delays = (await allMetrics(db)).map(({ delayMs, samplingMs }) => delayMs + samplingMs);
  const overlap = Math.max(0, ...delays) + times(2, minute);
  return before(Math.min(now, account.pulledUntil) as Instant, overlap as Duration);
}

async function fetchInto(
  intake: Intake,
  account: Account,
  access: ProviderAccess,
  span: Range,
  receivedAt: Instant,
  tally: { points: number; refused: number; newestAt: Instant | null }
): Promise<string | null> {
  const wanted: WantedSeries[] = await wantedSeries(intake.db, account.id);
  let refusedExample: string | null = null;
  if (wanted.length === 0) return null;
  for await (const { blocks, refused, refusedExample: example } of providerOf(intake.providers, account).fetch(
    access,
    wanted,
    span
  )) {
    const { written, newest } = await intake.store.append(account.id, receivedAt, blocks);
    tally.points += written;
    tally.refused += refused;
    refusedExample ??= example;
    if (newest !== null) tally.newestAt = Math.max(newest, tally.newestAt ?? 0) as Instant;
  }
  return refusedExample;
}

function errorOf(failure: unknown, at: Instant): AccountError {
  if (failure instanceof ProviderError)
    return { fault: failure.fault, message: failure.message, remedy: failure.remedy, at };
  return {
    fault: 'internal',
    message: 'Bussola could not finish the pull.',
    remedy: 'Look into Bussola’s log; the next pull tries again.',
    at
  };
}

/** How much history a new account is asked for. @example historyStart(now, 14) */
export const historyStart = (now: Instant, days: number): Instant => before(now, times(days, day));

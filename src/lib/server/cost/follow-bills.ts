import { setTimeout as wait } from 'node:timers/promises';
import { dayAt, type DayNumber } from '$lib/core/cost';
import { isRefused, Refusal } from '$lib/core/problem/problem';
import { hour, minute, times, type Instant } from '$lib/core/time';
import { eachAccount, keepLooking } from '../intake/ledger/each-account';
import { accessOf, errorOf, providerOf, type Intake } from '../intake/ledger/intake';
import { accountById, type Account } from '../inventory/accounts';
import { ProviderError } from '../providers/port/provider';
import type { BillPage, Bills } from '../providers/port/bills';
import { billReadOf, noteBillError, noteBillRead, type BillRead, type RejectedRows } from './bill-reads';
import type { StoredBill } from './bill-writer';
import type { CostClient } from './open-costs';
import { sampleAllCosts } from './sample-costs';

export interface BillIntake extends Intake {
  readonly costs: CostClient;
}

/** How often bills are read: they change a few times a day at most. What failed is tried again sooner. */
const [readEvery, againAfter] = [times(3, hour), times(10, minute)];
/** So many days are read at once when an account is new; what is older follows in pieces, up to thirteen months, so that a month can be compared with that of a year before. */
const [firstDays, pieceDays, allDays] = [62, 31, 400];
/** How long a piece of history waits for people who read, ms of real time. */
const longestQuiet = 400;
/** Rejected rows that are named. */
const mostNamed = 20;
const none: RejectedRows = { count: 0, first: [] };

/** Reads the bills of every account whose provider has them. @param pauseMs how often it is looked what is due; real time */
export function followBills(intake: BillIntake, pauseMs: number) {
  return eachAccount(
    intake,
    (provider) => provider.bills !== undefined,
    (accountId, signal) => follow(intake, accountId, pauseMs, signal)
  );
}

async function follow(intake: BillIntake, accountId: number, pauseMs: number, signal: AbortSignal): Promise<void> {
  const { db, log } = intake;
  while (!signal.aborted) {
    const account = await accountById(db, accountId);
    if (account === null) return;
    try {
      if (await isDue(intake, accountId)) await readBills(intake, account, signal);
      else await readHistory(intake, account, signal);
    } catch (error) {
      if (!signal.aborted && !isExpected(error)) log.error({ err: error, accountId }, 'bills failed');
    }
    await wait(pauseMs, undefined, { signal }).catch(() => undefined);
  }
}

async function isDue({ db, clock }: BillIntake, accountId: number): Promise<boolean> {
  const read = await billReadOf(db, accountId);
  const readAt = read?.readAt ?? null;
  const now = clock.now();
  return readAt === null || now < readAt || now - readAt >= (read?.lastError ? againAfter : readEvery);
}

/**
 * Reads the bills of an account: all that may have changed since the last time.
 *
 * @throws ProviderError, which is noted as well
 */
export async function readBills(intake: BillIntake, account: Account, signal: AbortSignal): Promise<void> {
  const { db, clock } = intake;
  const known = await billReadOf(db, account.id);
  const now = clock.now();
  const today = dayAt(now);
  const from = known?.settledUntil ?? ((today - firstDays) as DayNumber);
  await noting(intake, account, signal, async (bills) => {
    const { until, rejected } = await readDays(intake, account.id, bills, { from, to: today }, signal);
    return {
      settledUntil: Math.max(from, until - bills.settlesAfter) as DayNumber,
      historyFrom: known?.historyFrom ?? from,
      readAt: now,
      rejected
    };
  });
}

/** Reads a piece of what is older than anything read so far. */
async function readHistory(intake: BillIntake, account: Account, signal: AbortSignal): Promise<void> {
  const { db, clock, readers } = intake;
  const known = await billReadOf(db, account.id);
  const oldest = (dayAt(clock.now()) - allDays) as DayNumber;
  if (known === null || known.historyFrom === null || known.historyFrom <= oldest || known.lastError !== null) return;
  await readers.quiet(longestQuiet);
  const to = known.historyFrom;
  const from = Math.max(oldest, to - pieceDays) as DayNumber;
  await noting(intake, account, signal, async (bills) => {
    await readDays(intake, account.id, bills, { from, to }, signal);
    return { ...known, historyFrom: from, readAt: known.readAt };
  });
}

/** Reads and stores some days. @returns up to which day there were any */
async function readDays(
  intake: BillIntake,
  accountId: number,
  bills: Bills,
  { from, to }: { readonly from: DayNumber; readonly to: DayNumber },
  signal: AbortSignal
): Promise<{ readonly until: DayNumber; readonly rejected: RejectedRows | null }> {
  let until = from;
  let rejected = none;
  for await (const page of bills.read(from, to, signal)) {
    const { rejected: more } = await storePage(intake, accountId, page, intake.clock.now());
    until = Math.max(until, page.to) as DayNumber;
    rejected = {
      count: rejected.count + more.count,
      first: [...rejected.first, ...more.first].slice(0, mostNamed)
    };
  }
  return { until, rejected: rejected.count === 0 ? null : rejected };
}

/** Notes how far reading came, or why it failed. */
async function noting(
  intake: BillIntake,
  account: Account,
  signal: AbortSignal,
  work: (bills: Bills) => Promise<Omit<BillRead, 'accountId' | 'lastError'>>
): Promise<void> {
  const { db, clock, providers } = intake;
  const now = clock.now();
  try {
    const bills = providerOf(providers, account).bills?.(await accessOf(intake, account));
    if (bills === undefined) return;
    const came = await work(bills);
    if (signal.aborted) return;
    await noteBillRead(db, account.id, came);
    intake.changes.tell('costs', { accountId: account.id });
  } catch (error) {
    if (!signal.aborted) await noteBillError(db, account.id, billError(error, now), now);
    throw error;
  }
}

async function storePage(
  { costs }: BillIntake,
  accountId: number,
  page: BillPage,
  at: Instant
): Promise<StoredBill & { readonly rejected: RejectedRows }> {
  const { from, to } = page;
  switch (page.kind) {
    case 'entries':
      return { ...(await costs.bills.put(accountId, { from, to }, page.entries, at)), rejected: none };
    case 'focus':
      return costs.bills.putFile(accountId, { from, to }, page.file, page.isGzip, at);
    default:
      throw new TypeError(`storePage: unknown ${JSON.stringify(page satisfies never)}`);
  }
}

const billError = (error: unknown, at: Instant) =>
  error instanceof Refusal
    ? { code: error.code, message: error.message, remedy: error.remedy, at }
    : { ...errorOf(error, at), ...(error instanceof ProviderError ? {} : { message: 'The bill could not be read.' }) };

const isExpected = (error: unknown): boolean =>
  error instanceof ProviderError || isRefused(error, 'disk-low', 'unreadable', 'too-large');

/** Reads bills, and measures what they say, until it is stopped. @param pauseMs 0 reads none */
export function startReadingBills(intake: BillIntake, pauseMs: number): { stop(): Promise<void> } {
  if (pauseMs === 0) return { stop: () => Promise.resolve() };
  const { log } = intake;
  const looking = keepLooking(followBills(intake, pauseMs), (error) =>
    log.error({ err: error }, 'accounts whose bills are read could not be listed')
  );
  let sampling: Promise<void> | null = null;
  const timer = setInterval(() => {
    sampling ??= sampleAllCosts(intake)
      .catch((error: unknown) => {
        if (!isRefused(error, 'disk-low'))
          log.error({ err: error }, 'what accounts cost could not be stored as samples');
      })
      .finally(() => (sampling = null));
  }, pauseMs);
  return {
    stop: async () => {
      clearInterval(timer);
      await sampling;
      await looking.stop();
    }
  };
}

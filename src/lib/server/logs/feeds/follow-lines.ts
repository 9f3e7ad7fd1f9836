import { setTimeout as wait } from 'node:timers/promises';
import { planEvery, type CollectionPlan } from '$lib/core/intake';
import { isRefused } from '$lib/core/problem/problem';
import { after, before, day, hour, minute, range, times, type Instant, type Range } from '$lib/core/time';
import { accountById, type Account } from '../../inventory/accounts';
import { eachAccount, keepLooking } from '../../intake/ledger/each-account';
import { accessOf, errorOf, providerOf } from '../../intake/ledger/intake';
import { planOf } from '../../intake/plan/plans';
import { malformed } from '../../providers/port/exchange';
import { ProviderError, type LineFeed } from '../../providers/port/provider';
import { feedState, noteAllFeeds, noteFeed } from './feeds';
import { takePage, type LineIntake } from './take-page';

/** How often it is asked what writes lines. */
const listEvery = times(5, minute);
const longestWaitMs = 120_000;
/** What a new feed brings first; the rest is filled in behind it, in pieces. */
const firstLook = hour;
const historyPiece = times(6, hour);
/** How long a page of history waits for people who read, ms of real time. */
const longestQuiet = 400;
/** How far a provider's clock may be ahead: beyond, it says nothing of lines that are still to be written. */
const tolerated = times(10, minute);

/**
 * Reads the lines of every account whose provider has them, each feed on its own, as often as its plan says: first those of the last hour and what comes, then, piece by piece, what was before.
 *
 * @param pauseMs how often it is looked what is due; real time
 * @example const lines = followLines(intake, 1000); await lines.tick()
 */
export function followLines(intake: LineIntake, pauseMs: number) {
  return eachAccount(
    intake,
    (provider) => provider.lines !== undefined,
    (accountId, signal) => new FollowedAccount(intake, accountId, pauseMs, signal).follow()
  );
}

/** Lines of one account. */
class FollowedAccount {
  readonly #intake: LineIntake;
  readonly #accountId: number;
  readonly #pauseMs: number;
  readonly #signal: AbortSignal;
  readonly #running = new Map<string, Promise<void>>();
  readonly #failures = new Map<string, number>();
  /** Until when what failed waits, by its name; ms of real time. */
  readonly #notBefore = new Map<string, number>();
  readonly #readAt = new Map<string, Instant>();
  #feeds: readonly LineFeed[] = [];
  #listedAt: Instant | null = null;

  constructor(intake: LineIntake, accountId: number, pauseMs: number, signal: AbortSignal) {
    this.#intake = intake;
    this.#accountId = accountId;
    this.#pauseMs = pauseMs;
    this.#signal = signal;
  }

  async follow(): Promise<void> {
    while (!this.#signal.aborted) {
      const account = await accountById(this.#intake.db, this.#accountId);
      if (account === null) break;
      if (this.#isDue(this.#listedAt, listEvery)) this.#begin('list', () => this.#list(account));
      for (const feed of this.#feeds) {
        const plan = await this.#planOf(feed);
        if (plan.lines.collect && this.#isDue(this.#readAt.get(feed.name) ?? null, planEvery(plan)))
          this.#begin(`feed ${feed.name}`, () => this.#readNew(account, feed));
      }
      // One piece of history after the other, so that what is new is never behind it.
      if (this.#feeds.length > 0) this.#begin('history', () => this.#readHistory(account));
      await wait(this.#pauseMs, undefined, { signal: this.#signal }).catch(() => undefined);
    }
    await Promise.all(this.#running.values());
  }

  /** Begins what is not under way and need not wait. What fails waits for longer each time; it has said why. */
  #begin(name: string, work: () => Promise<void>): void {
    if (this.#running.has(name) || (this.#notBefore.get(name) ?? 0) > performance.now()) return;
    const done = work()
      .then(
        () => void this.#failures.delete(name),
        (error: unknown) => {
          const count = (this.#failures.get(name) ?? 0) + 1;
          this.#failures.set(name, count);
          const pause = Math.min(longestWaitMs, 10 * this.#pauseMs * 2 ** Math.min(count - 1, 6));
          this.#notBefore.set(name, performance.now() + pause);
          if (!isExpected(error) && !this.#signal.aborted)
            this.#intake.log.error({ err: error, accountId: this.#accountId, work: name }, 'lines failed');
        }
      )
      .finally(() => this.#running.delete(name));
    this.#running.set(name, done);
  }

  #isDue(last: Instant | null, every: number): boolean {
    const now = this.#intake.clock.now();
    return last === null || now - last >= every || now < last;
  }

  #planOf({ service }: LineFeed): Promise<CollectionPlan> {
    return planOf(this.#intake.db, this.#accountId, service);
  }

  async #list(account: Account): Promise<void> {
    const { db, clock, providers } = this.#intake;
    const startedAt = clock.now();
    try {
      const access = await accessOf(this.#intake, account);
      this.#feeds = (await providerOf(providers, account).lines?.(access)) ?? [];
      this.#listedAt = startedAt;
    } catch (error) {
      if (!this.#signal.aborted) await noteAllFeeds(db, account.id, errorOf(error, clock.now()), clock.now());
      throw error;
    }
  }

  #beginOf({ historyFrom }: Account): Instant {
    return Math.max(before(this.#intake.clock.now(), firstLook), historyFrom) as Instant;
  }

  /** Reads what has come since the last time; a stream goes on as long as it lasts. */
  async #readNew(account: Account, feed: LineFeed): Promise<void> {
    const { db, clock } = this.#intake;
    const startedAt = clock.now();
    await this.#noting(feed, async () => {
      const state = await feedState(db, account.id, feed, this.#beginOf(account));
      for await (const page of feed.read(state.until, null, this.#signal)) {
        if (this.#signal.aborted || !(await this.#isCollected(feed))) return;
        if (page.until > after(clock.now(), tolerated))
          throw malformed(`${feed.name} claims to have all lines up to a time that is still to come.`);
        const progress = { ...state, accountId: account.id, feed: feed.name, until: page.until };
        await takePage(this.#intake, { accountId: account.id, feed, progress, isHistory: false }, page);
      }
    });
    this.#readAt.set(feed.name, startedAt);
  }

  async #isCollected(feed: LineFeed): Promise<boolean> {
    return (await this.#planOf(feed)).lines.collect && (await accountById(this.#intake.db, this.#accountId)) !== null;
  }

  /** Fills the newest piece of history that any feed lacks, again and again. A feed that fails holds no other up. */
  async #readHistory(account: Account): Promise<void> {
    const failed = new Map<string, unknown>();
    while (!this.#signal.aborted) {
      let next: { readonly feed: LineFeed; readonly missing: Range } | null = null;
      for (const feed of this.#feeds) {
        const missing = failed.has(feed.name) ? null : await this.#missing(account, feed);
        if (missing !== null && (next === null || missing.to > next.missing.to)) next = { feed, missing };
      }
      if (next === null) break;
      const { feed, missing } = next;
      await this.#noting(feed, () => this.#fillPiece(account, feed, missing)).catch((error: unknown) =>
        failed.set(feed.name, error)
      );
    }
    const [first] = failed.values();
    if (first !== undefined) throw first;
  }

  /** What of the history of a feed is not here yet; null when all is, or nobody wants it. */
  async #missing(account: Account, feed: LineFeed): Promise<Range | null> {
    const { db, clock, providers } = this.#intake;
    const { lines, keep } = await this.#planOf(feed);
    if (!lines.collect) return null;
    const { historyTo } = await feedState(db, account.id, feed, this.#beginOf(account));
    const now = clock.now();
    const from = Math.max(
      account.historyFrom,
      before(now, providerOf(providers, account).reach),
      before(now, times(keep.lineDays, day)) // older ones would go at once
    ) as Instant;
    return historyTo > from ? range(from, historyTo) : null;
  }

  async #fillPiece(account: Account, feed: LineFeed, missing: Range): Promise<void> {
    const { db, readers } = this.#intake;
    const state = await feedState(db, account.id, feed, this.#beginOf(account));
    const { to } = missing;
    // One that was begun is brought to its end as it was begun: what it has is not read again.
    const from = state.piece?.from ?? (Math.max(missing.from, before(to, historyPiece)) as Instant);
    let reached = state.piece?.until ?? from;
    for await (const page of feed.read(reached, to, this.#signal)) {
      await readers.quiet(longestQuiet);
      if (this.#signal.aborted) return;
      reached = Math.min(page.until, to) as Instant;
      const done = { historyTo: from, piece: null };
      const progress = {
        ...{ ...state, accountId: account.id, feed: feed.name },
        ...(reached >= to ? done : { piece: { from, until: reached } })
      };
      await takePage(this.#intake, { accountId: account.id, feed, progress, isHistory: true }, page);
    }
    // What breaks off is not all there was: the piece goes on where it is, another time.
    if (reached < to && !this.#signal.aborted)
      throw new ProviderError(
        'unavailable',
        `The lines of ${feed.name} broke off in the midst of its history.`,
        'Nothing: Bussola reads on where it was.'
      );
  }

  async #noting(feed: LineFeed, work: () => Promise<void>): Promise<void> {
    const { db, clock } = this.#intake;
    try {
      await work();
      await noteFeed(db, this.#accountId, feed.name, null, clock.now());
    } catch (error) {
      if (!this.#signal.aborted && !isRefused(error, 'busy'))
        await noteFeed(db, this.#accountId, feed.name, errorOf(error, clock.now()), clock.now());
      throw error;
    }
  }
}

/** Follows lines until it is stopped. @param pauseMs 0 follows none */
export function startFollowing(intake: LineIntake, pauseMs: number): { stop(): Promise<void> } {
  if (pauseMs === 0) return { stop: () => Promise.resolve() };
  return keepLooking(followLines(intake, pauseMs), (error) =>
    intake.log.error({ err: error }, 'accounts whose lines are read could not be listed')
  );
}

const isExpected = (error: unknown): boolean =>
  error instanceof ProviderError || isRefused(error, 'disk-low') || isRefused(error, 'busy');

import { setImmediate } from 'node:timers/promises';
import {
  decodeBatch,
  type FollowedLines,
  type FoundLine,
  type LogProgress,
  type LogTally as Tallied
} from '$lib/core/logs';
import type { Instant, Range } from '$lib/core/time';
import type { Database } from '../db/pool';
import { namesOfFields } from './field-names';
import { Followers, type FollowQuery } from './followers';
import { HeldLines, usualLimits, type SealLimits } from './held-lines';
import { JournalWriter, type Arriving, type ComesBy } from './journal-writer';
import type { ShapedLine } from './log-head';
import { lineByKey, linesAround, placeOfKey } from './log-lines';
import { LogSearch, type LogQuery } from './log-search';
import { earliestOf, LogCounts, type Counted, type CountsQuery } from './log-counts';
import { LogTally, type TallyQuery } from './log-tally';
import { RunningSearches } from './running-searches';
import { SegmentCache } from './segment-cache';
import type { Stream } from './streams';

export { usualLimits, type SealLimits } from './held-lines';
export type { Arriving } from './journal-writer';

/** Bytes of lines that wait in memory, about, beyond which those that arrive wait for them. */
const usualHeld = 2 * usualLimits.bytes;

/** Searches that are under way at once. */
const mostSearches = 64;

/** Who follows at once, and how often it is looked what other processes wrote, ms. */
const mostFollowers = 64;
const followEveryMs = 400;

/** Countings that are under way at once. */
const mostTallies = 8;

/** How much there is. */
export interface LogSize {
  readonly streams: number;
  readonly waiting: number;
  readonly segments: number;
  readonly sealed: number;
}

/** Lines: journal, head and segments together. Its methods take and give only what can cross a thread's border. */
export class LogStore {
  readonly #db: Database;
  readonly #mostHeld: number;
  readonly #cache: SegmentCache;
  readonly #writer: JournalWriter;
  readonly #held: HeldLines;
  readonly #searches = new RunningSearches(mostSearches);
  readonly #followers = new Followers(mostFollowers);
  #caughtUpAt = 0;
  #tallies = 0;
  /** What changes what is held takes turns. */
  #turn: Promise<unknown> = Promise.resolve();

  /** @param db is closed with the store */
  constructor(db: Database, mostHeld = usualHeld) {
    this.#db = db;
    this.#mostHeld = mostHeld;
    this.#cache = new SegmentCache(db);
    this.#writer = new JournalWriter(db);
    this.#held = new HeldLines(db, (stream, lines, receivedAt, shapeOf) =>
      this.#followers.offer(stream, lines, receivedAt, shapeOf)
    );
  }

  /** Rebuilds what is held from the journal. */
  open(): Promise<void> {
    return this.#inTurn(() => this.#held.open());
  }

  /**
   * Keeps lines. When this resolves they are in the journal: committed means stored.
   *
   * @param by what is said in the same transaction of how far a feed has come with them
   * @returns how many there were
   */
  async append(receivedAt: Instant, arriving: readonly Arriving[], by: ComesBy | null = null): Promise<number> {
    // Lines that arrive faster than they are taken and sealed wait before they are acknowledged, not in memory.
    if (this.#held.bytes > this.#mostHeld) await this.seal(receivedAt, { ...usualLimits, bytes: this.#mostHeld / 2 });
    const read = arriving
      .map((one) => ({ ...one, lines: decodeBatch(one.batch, one.resourceId) }))
      .filter(({ lines }) => lines.length > 0);
    const journalled = await this.#writer.write(read, receivedAt, by);
    if (journalled.length === 0) return 0;
    // Not before it is acknowledged. Whoever searches waits for this, and hears of what is wrong.
    void this.#inTurn(async () => {
      await setImmediate();
      await this.#held.take(journalled, receivedAt);
    }).catch(() => undefined);
    return read.reduce((sum, { lines }) => sum + lines.length, 0);
  }

  /**
   * Moves what waits into segments, where it is due.
   *
   * @returns how many lines were sealed
   */
  seal(now: Instant, limits: SealLimits = usualLimits): Promise<number> {
    return this.#inTurn(() => this.#held.seal(now, limits));
  }

  /** Removes segments whose time is over, as plans say. @returns how many */
  retain(now: Instant): Promise<number> {
    return this.#inTurn(() => this.#held.retain(now));
  }

  /** Segments and batches that were found to be damaged while they were read: what they hold is not shown. */
  damaged(): number {
    return this.#cache.damaged + this.#held.damaged;
  }

  /** Begins a search. @returns its ticket; null when too many are under way */
  async search(query: LogQuery): Promise<number | null> {
    await this.#caughtUp();
    return this.#searches.begin(() => new LogSearch(query, this.#held.searched(), this.#cache));
  }

  /** How far a search has come after another piece of work; null for one that is over or was cancelled. */
  progress(ticket: number): Promise<LogProgress | null> {
    return this.#searches.goOn(ticket);
  }

  cancel(ticket: number): void {
    this.#searches.cancel(ticket);
  }

  /**
   * Counts lines by the values of a field.
   *
   * @param patience how long it may take, ms of real time: then what is counted so far is given
   * @returns null while too many are counted
   */
  async tally(query: TallyQuery, patience: number): Promise<Tallied | null> {
    if (this.#tallies >= mostTallies) return null;
    this.#tallies++;
    try {
      await this.#caughtUp();
      const tally = new LogTally(query, this.#held.searched(), this.#cache);
      const until = performance.now() + patience;
      while (!tally.isDone && performance.now() < until) {
        await tally.goOn();
        await setImmediate(); // others have their turn
      }
      return tally.result();
    } finally {
      this.#tallies--;
    }
  }

  /**
   * Counts lines cell by cell.
   *
   * @param patience how long it may take, ms of real time
   * @returns null where it takes longer, and while too many are counted
   */
  async counted(query: CountsQuery, patience: number): Promise<Counted | null> {
    if (this.#tallies >= mostTallies) return null;
    this.#tallies++;
    try {
      await this.#caughtUp();
      const searched = this.#held.searched();
      const counts = new LogCounts(query, searched, this.#cache);
      const until = performance.now() + patience;
      while (!counts.isDone) {
        if (performance.now() > until) return null;
        await counts.goOn();
        await setImmediate(); // others have their turn
      }
      return { ...counts.result(), since: earliestOf(query, searched) };
    } finally {
      this.#tallies--;
    }
  }

  /** Names of the fields that lines of a range have, those of the most lines first. */
  async fieldNames(range: Range, accounts: readonly number[] | null): Promise<{ name: string; lines: number }[]> {
    await this.#caughtUp();
    return namesOfFields(this.#held.searched(), this.#cache, range, accounts);
  }

  /** Begins to follow what arrives from now on. @returns a ticket; null when too many follow already */
  async follow(query: FollowQuery): Promise<number | null> {
    await this.#caughtUp();
    return this.#followers.begin(query);
  }

  /** What has come of a search that is followed, since it was asked the last time; null for one that is over. */
  async followed(ticket: number): Promise<FollowedLines | null> {
    // What another process writes is seen, too; not asked for more often than people can read.
    if (performance.now() - this.#caughtUpAt > followEveryMs) {
      this.#caughtUpAt = performance.now();
      await this.#caughtUp();
    }
    return this.#followers.take(ticket);
  }

  unfollow(ticket: number): void {
    this.#followers.end(ticket);
  }

  /** A line by its key, whole, with the stream that it is of; null when it is gone, or of an account that may not be seen. */
  async line(key: string, accounts: readonly number[] | null): Promise<{ line: ShapedLine; stream: Stream } | null> {
    await this.#caughtUp();
    const stream = this.#held.streams.get(placeOfKey(key)?.streamId ?? 0);
    if (stream === undefined || (accounts !== null && !accounts.includes(stream.accountId))) return null;
    const line = await lineByKey(this.#held.searched(), this.#cache, key);
    return line === null ? null : { line, stream };
  }

  /** Lines of a stream around a moment, the earliest first: so many before it, and so many from it on. */
  async around(streamId: number, at: Instant, each: number, accounts: readonly number[] | null): Promise<FoundLine[]> {
    await this.#caughtUp();
    const stream = this.#held.streams.get(streamId);
    if (stream === undefined || (accounts !== null && !accounts.includes(stream.accountId))) return [];
    return linesAround(this.#held.searched(), this.#cache, { streamIds: [streamId], at, each });
  }

  async streams(): Promise<Stream[]> {
    await this.#caughtUp();
    return [...this.#held.streams.values()];
  }

  size(): LogSize {
    return {
      streams: this.#held.streams.size,
      waiting: this.#held.waiting,
      segments: this.#held.segments.length,
      sealed: this.#held.segments.reduce((sum, { lines }) => sum + lines, 0)
    };
  }

  async close(): Promise<void> {
    await this.#turn.catch(() => undefined);
    await this.#db.close();
  }

  #caughtUp(): Promise<void> {
    return this.#inTurn(() => this.#held.catchUp());
  }

  #inTurn<Done>(work: () => Promise<Done>): Promise<Done> {
    const next = this.#turn.catch(() => undefined).then(work);
    this.#turn = next;
    return next;
  }
}

import {
  matcherOf,
  mostListed,
  readSearch,
  searchedLine,
  type FollowedLines,
  type FoundLine,
  type Matcher,
  type StreamContext
} from '$lib/core/logs';
import { minute, times } from '$lib/core/time';
import { listedLine } from './listed';
import type { ShapedLine, StreamHead } from './log-head';
import { shapesSince } from './shape-counts';
import type { LogQuery } from './log-search';
import type { Stream } from './streams';

/** What is followed. */
export type FollowQuery = Pick<LogQuery, 'text' | 'accounts' | 'resources'>;

/** Lines that wait for whoever follows, for a quarter of a second: nobody reads more, and drawing them keeps the newest waiting. Of more, the oldest are skipped and counted. */
const mostWaiting = 200;
/** Lines that are older than this when they arrive are history that is filled in, not news. */
const newsFor = times(15, minute);
/** Who has not asked for so long is gone, ms of real time. */
const goneAfterMs = 60_000;

/** One search that goes on: every line that arrives is tried. */
class Follower {
  readonly #query: FollowQuery;
  readonly #matcher: Matcher;
  readonly #contexts = new Map<number, StreamContext>();
  #waiting: FoundLine[] = [];
  #skipped = 0;
  #looked = 0;
  askedAt = performance.now();

  /** @throws Refusal for a search that cannot be read */
  constructor(query: FollowQuery) {
    this.#query = query;
    this.#matcher = matcherOf(readSearch(query.text));
  }

  offer(stream: Stream, lines: readonly ShapedLine[], shapeOf: StreamHead['shape']): void {
    if (this.#query.accounts !== null && !this.#query.accounts.includes(stream.accountId)) return;
    let context = this.#contexts.get(stream.id);
    if (context === undefined) {
      const { service, account, name } = stream;
      context = {
        ...{ service, account, stream: name },
        resourceName: (id) => this.#query.resources.get(id),
        shapeSince: shapesSince(shapeOf)
      };
      this.#contexts.set(stream.id, context);
    }
    this.#looked += lines.length;
    for (const line of lines) {
      if (!this.#matcher.matches(searchedLine(line, context))) continue;
      const marks = this.#matcher.marks(line.text.slice(0, mostListed).toWellFormed());
      this.#waiting.push(listedLine(stream.id, line, marks));
    }
    const tooMany = this.#waiting.length - mostWaiting;
    if (tooMany > 0) {
      this.#waiting = this.#waiting.slice(tooMany);
      this.#skipped += tooMany;
    }
  }

  take(): FollowedLines {
    this.askedAt = performance.now();
    const taken = { lines: this.#waiting, skipped: this.#skipped, looked: this.#looked };
    this.#waiting = [];
    this.#skipped = 0;
    this.#looked = 0;
    return taken;
  }
}

/** Searches that go on, by their tickets. */
export class Followers {
  readonly #most: number;
  readonly #followers = new Map<number, Follower>();
  #next = 1;

  /** @param most at once */
  constructor(most: number) {
    this.#most = most;
  }

  /** @returns the ticket; null when too many follow already */
  begin(query: FollowQuery): number | null {
    for (const [ticket, { askedAt }] of this.#followers)
      if (performance.now() - askedAt > goneAfterMs) this.#followers.delete(ticket);
    if (this.#followers.size >= this.#most) return null;
    const follower = new Follower(query);
    const ticket = this.#next++;
    this.#followers.set(ticket, follower);
    return ticket;
  }

  /** Lines that a stream was given just now, in the order in which they came. */
  offer(
    stream: Stream | undefined,
    lines: readonly ShapedLine[],
    receivedAt: number,
    shapeOf: StreamHead['shape']
  ): void {
    if (stream === undefined || this.#followers.size === 0) return;
    const news = lines.filter(({ at }) => receivedAt - at <= newsFor);
    if (news.length === 0) return;
    for (const follower of this.#followers.values()) follower.offer(stream, news, shapeOf);
  }

  /** What has come since it was asked the last time; null for whom is not known. */
  take(ticket: number): FollowedLines | null {
    return this.#followers.get(ticket)?.take() ?? null;
  }

  end(ticket: number): void {
    this.#followers.delete(ticket);
  }
}

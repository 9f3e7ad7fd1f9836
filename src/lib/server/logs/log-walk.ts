import {
  findLines,
  matcherOf,
  planSegment,
  readSearch,
  searchedLine,
  type Matcher,
  type Search,
  type SegmentHead,
  type SegmentPlan,
  type SegmentSummary,
  type StreamContext
} from '$lib/core/logs';
import type { Range } from '$lib/core/time';
import { between, lowerBound } from './in-span';
import type { ShapedLine } from './log-head';
import type { SegmentCache } from './segment-cache';
import type { SegmentEntry } from './segments';
import { shapesSince, type ShapeOf } from './shape-counts';
import type { Stream } from './streams';

/** Which lines are looked for, where. */
export interface WalkQuery {
  /** As it was typed. */
  readonly text: string;
  readonly range: Range;
  /** Accounts whose lines may be seen; null for all. */
  readonly accounts: readonly number[] | null;
  /** Names of resources of the inventory, by their ids. */
  readonly resources: ReadonlyMap<number, string>;
}

/** The same with a search that may have been read already. */
export type WalkedQuery = Omit<WalkQuery, 'text'> & { readonly text: string | Search };

/** What there is to search. */
export interface Searched {
  readonly streams: ReadonlyMap<number, Stream>;
  /** Lines that are not sealed, by stream, in order. */
  readonly heads: ReadonlyMap<number, readonly ShapedLine[]>;
  readonly segments: readonly SegmentEntry[];
  readonly shapeOf: ShapeOf;
}

/** A segment that may have something, before it is read. */
export interface PlannedSegment {
  readonly segment: SegmentEntry;
  readonly context: StreamContext;
  readonly summary: SegmentSummary;
  readonly plan: SegmentPlan;
}

/** Lines of a segment that were found. */
export interface FoundInSegment extends PlannedSegment {
  readonly head: SegmentHead;
  readonly parts: ReadonlyMap<number, Uint8Array>;
  /** Their numbers in it, the earliest first. */
  readonly lines: readonly number[];
}

/** What is done with lines that are found. */
export interface Finds {
  /** Lines that are not sealed. */
  waiting(streamId: number, context: StreamContext, lines: readonly ShapedLine[]): void;
  /** Whether the summary of a segment said all that is wanted, so that it need not be read. */
  isSaid(planned: PlannedSegment): boolean;
  /** Whether the head of a segment that is found whole said all that is wanted, so that its lines need not be listed. */
  isCounted?(planned: PlannedSegment, head: SegmentHead): boolean;
  /** Parts that are read besides those that finding needs. */
  partsOf(summary: SegmentSummary): readonly number[];
  sealed(found: readonly FoundInSegment[]): Promise<void> | void;
}

/** How long a piece of work takes before it is said how far it came, ms. */
const pieceMs = 40;
/** Segments of which summaries are read at once, and parts. */
const summariesAtOnce = 200;
const partsAtOnce = 24;

/** Goes through what there is, the newest first, a piece at a time, and passes over what surely has nothing. */
export class LogWalk {
  readonly matcher: Matcher;
  /** Lines of the range in all, about: those of segments on its edge count whole. */
  readonly all: number;
  readonly #query: WalkedQuery;
  readonly #search: Search;
  readonly #searched: Searched;
  readonly #cache: SegmentCache;
  readonly #finds: Finds;
  /** Still to be looked at, the one with the newest lines last. */
  readonly #segments: SegmentEntry[];
  readonly #heads: (readonly [number, readonly ShapedLine[]])[];
  #planned: PlannedSegment[] = [];
  #looked = 0;
  #took = 0;

  /** @throws Refusal for a search that cannot be read */
  constructor(query: WalkedQuery, searched: Searched, cache: SegmentCache, finds: Finds) {
    this.#query = query;
    this.#search = typeof query.text === 'string' ? readSearch(query.text) : query.text;
    this.matcher = matcherOf(this.#search);
    this.#searched = searched;
    this.#cache = cache;
    this.#finds = finds;
    const { from, to } = query.range;
    const isSeen = (streamId: number): boolean => {
      const stream = searched.streams.get(streamId);
      return stream !== undefined && (query.accounts === null || query.accounts.includes(stream.accountId));
    };
    this.#segments = searched.segments
      .filter((segment) => segment.to >= from && segment.from < to && isSeen(segment.streamId))
      .sort((a, b) => a.to - b.to);
    this.#heads = [...searched.heads].filter(([id]) => isSeen(id));
    this.all =
      this.#segments.reduce((sum, { lines }) => sum + lines, 0) +
      this.#heads.reduce((sum, [, lines]) => sum + between(lines, from, to).length, 0);
  }

  /** Lines of the range that are behind it, looked at or passed over. */
  get looked(): number {
    return this.#looked;
  }

  /** What it took so far, ms. */
  get took(): number {
    return this.#took;
  }

  get isDone(): boolean {
    return this.#heads.length === 0 && this.#segments.length === 0 && this.#planned.length === 0;
  }

  /** Does another piece of the work. */
  async goOn(): Promise<void> {
    const begun = performance.now();
    do await this.#step();
    while (!this.isDone && performance.now() - begun < pieceMs);
    this.#took += performance.now() - begun;
  }

  async #step(): Promise<void> {
    const head = this.#heads.pop();
    if (head !== undefined) this.#lookAtHead(...head);
    else if (this.#planned.length > 0) await this.#lookAtSegments();
    else if (this.#segments.length > 0) await this.#plan();
  }

  #contextOf(streamId: number): StreamContext {
    const stream = this.#searched.streams.get(streamId);
    const { shapeOf } = this.#searched;
    return {
      service: stream?.service ?? '',
      account: stream?.account ?? '',
      stream: stream?.name ?? '',
      resourceName: (id) => this.#query.resources.get(id),
      shapeSince: shapesSince((shape) => shapeOf(streamId, shape))
    };
  }

  #lookAtHead(streamId: number, lines: readonly ShapedLine[]): void {
    const { from, to } = this.#query.range;
    const context = this.#contextOf(streamId);
    const inRange = between(lines, from, to);
    this.#looked += inRange.length;
    this.#finds.waiting(
      streamId,
      context,
      inRange.filter((line) => this.matcher.matches(searchedLine(line, context)))
    );
  }

  /** Passes over the segments that surely have nothing. */
  async #plan(): Promise<void> {
    const next = this.#segments.splice(-summariesAtOnce);
    const summaries = await this.#cache.summaries(next);
    for (const segment of next) {
      const summary = summaries.get(segment.id);
      const context = this.#contextOf(segment.streamId);
      const plan = summary && planSegment(this.#search, summary, context);
      if (plan) this.#planned.push({ segment, context, summary, plan });
      else this.#looked += segment.lines;
    }
  }

  async #lookAtSegments(): Promise<void> {
    const next = this.#planned.splice(-partsAtOnce).reverse();
    const { range } = this.#query;
    for (const { segment } of next) this.#looked += segment.lines;
    const needed = next.filter((planned) => !this.#finds.isSaid(planned));
    if (needed.length === 0) return;
    const read = await this.#cache.parts(
      needed.map(({ segment, summary, plan }) => ({
        segment,
        parts: [...new Set([...plan.parts, ...this.#finds.partsOf(summary)])]
      }))
    );
    const found: FoundInSegment[] = [];
    for (const planned of needed) {
      const { segment, context, summary, plan } = planned;
      const there = read.get(segment.id);
      if (there === undefined) continue; // removed meanwhile
      const { head, parts } = there;
      if (isFoundWhole(planned, range) && this.#finds.isCounted?.(planned, head)) continue;
      const isWithin = segment.from >= range.from && segment.to < range.to;
      const [first, last] = isWithin
        ? [0, summary.lines]
        : [lowerBound(head.at, range.from), lowerBound(head.at, range.to)];
      const lines = findLines(plan, summary, context, head, parts, first, last);
      if (lines.length > 0) found.push({ ...planned, head, parts, lines });
    }
    await this.#finds.sealed(found);
  }
}

/** Whether a segment lies whole within a range, and all of its lines are found: its summary counts them. */
export const isFoundWhole = ({ segment, plan }: PlannedSegment, { from, to }: Range): boolean =>
  segment.from >= from && segment.to < to && plan.groups.every((group) => group === true);

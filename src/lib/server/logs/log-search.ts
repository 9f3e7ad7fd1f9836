import {
  mostListed,
  severityName,
  lineSeverities,
  type FoundLine,
  type LogProgress,
  type SegmentHead
} from '$lib/core/logs';
import { partOf, textsOf } from '$lib/core/logs/segment';
import type { Instant } from '$lib/core/time';
import { isNewer, listedLine, newest, type ShortLine } from './listed';
import type { ShapedLine } from './log-head';
import {
  isFoundWhole,
  LogWalk,
  type FoundInSegment,
  type PlannedSegment,
  type Searched,
  type WalkQuery
} from './log-walk';
import type { SegmentCache } from './segment-cache';
import { ShapeCounts } from './shape-counts';

/** What is asked. */
export interface LogQuery extends WalkQuery {
  /** Lines that are wanted, the newest. */
  readonly most: number;
  /** Length of a bar of the histogram, ms. */
  readonly step: number;
}

const classes = lineSeverities.length + 1;
/** For each severity number, which of a bar's counts it is: none, then trace to fatal. */
const classOf = Uint8Array.from({ length: 25 }, (_, severity) => {
  const name = severityName(severity);
  return name === null ? 0 : 1 + lineSeverities.indexOf(name);
});

/** A line that was found, before its text is needed. */
interface Hit {
  readonly at: number;
  readonly nanos: number;
  readonly read: () => FoundLine;
}

/** One search under way, newest first, a piece at a time. */
export class LogSearch {
  readonly #query: LogQuery;
  readonly #walk: LogWalk;
  readonly #searched: Searched;
  readonly #cache: SegmentCache;
  readonly #barsFrom: number;
  readonly #bars: Float64Array;
  readonly #shapes = new ShapeCounts();
  #hits: Hit[] = [];
  #count = 0;

  /** @throws Refusal for a search that cannot be read */
  constructor(query: LogQuery, searched: Searched, cache: SegmentCache) {
    this.#query = query;
    this.#searched = searched;
    this.#cache = cache;
    this.#walk = new LogWalk(query, searched, cache, {
      waiting: (streamId, _context, lines) => this.#addWaiting(streamId, lines),
      isSaid: (planned) => this.#isSaid(planned),
      isCounted: (planned, head) => this.#isCounted(planned, head),
      partsOf: () => [],
      sealed: (found) => this.#addSealed(found)
    });
    this.#barsFrom = Math.floor(query.range.from / query.step) * query.step;
    const bars = Math.max(1, Math.ceil((query.range.to - this.#barsFrom) / query.step));
    this.#bars = new Float64Array(bars * classes);
  }

  /** Does another piece of the work. */
  async goOn(): Promise<LogProgress> {
    await this.#walk.goOn();
    this.#hits = newest(this.#hits, this.#query.most);
    const { looked, all, took, isDone } = this.#walk;
    return {
      lines: this.#hits.map(({ read }) => read()),
      count: this.#count,
      barsFrom: this.#barsFrom as Instant,
      bars: barsOf(this.#bars),
      shapes: this.#shapes.most(this.#searched.shapeOf),
      shapesInAll: this.#shapes.size,
      ...{ looked, all, took, isDone }
    };
  }

  #addWaiting(streamId: number, lines: readonly ShapedLine[]): void {
    for (const line of lines) {
      this.#counts(line.at, line.severity, 1);
      this.#shapes.add(streamId, line.shape, 1);
      this.#hits.push(this.#hit(streamId, line));
    }
    if (this.#hits.length > 4 * this.#query.most) this.#hits = newest(this.#hits, this.#query.most);
  }

  /** All its lines are found, in one bar, and none of them is shown: its summary says it all. */
  #isSaid(planned: PlannedSegment): boolean {
    const { segment, summary } = planned;
    const isOneBar = this.#barOf(segment.from) === this.#barOf(segment.to);
    if (!isOneBar || segment.to >= this.#oldestWanted() || !isFoundWhole(planned, this.#query.range)) return false;
    for (const [severity, count] of summary.severities.entries()) this.#counts(segment.from, severity, count);
    this.#shapes.addWhole(segment.streamId, summary);
    return true;
  }

  /** All its lines are found, and none of them is shown: they are counted bar by bar. */
  #isCounted({ segment, summary }: PlannedSegment, { at, severity }: SegmentHead): boolean {
    if (segment.to >= this.#oldestWanted()) return false;
    const bars = this.#bars;
    let [place, until] = [0, -Infinity];
    for (let line = 0; line < summary.lines; line++) {
      const moment = at[line] as number;
      if (moment >= until) {
        const bar = this.#barOf(moment);
        place = bar * classes;
        until = this.#barsFrom + (bar + 1) * this.#query.step;
      }
      const own = place + (classOf[severity[line] as number] ?? 0);
      bars[own] = (bars[own] ?? 0) + 1;
    }
    this.#count += summary.lines;
    this.#shapes.addWhole(segment.streamId, summary);
    return true;
  }

  async #addSealed(found: readonly FoundInSegment[]): Promise<void> {
    const oldest = this.#oldestWanted();
    const shown: FoundInSegment[] = [];
    for (const one of found) {
      const { segment, summary, head, lines } = one;
      const { at, severity } = head;
      for (const line of lines) this.#counts(at[line] ?? 0, severity[line] ?? 0, 1);
      this.#shapes.addLines(segment.streamId, summary, head, lines);
      const wanted = lines.slice(-this.#query.most).filter((line) => (head.at[line] ?? 0) >= oldest);
      if (wanted.length > 0) shown.push({ ...one, lines: wanted });
    }
    await this.#show(shown);
  }

  /** Reads the texts of what may be among the newest. */
  async #show(shown: readonly FoundInSegment[]): Promise<void> {
    // Which of all these are among the newest is known before their texts are read.
    const drafts = shown.flatMap((one) =>
      one.lines.map((line) => ({ at: one.head.at[line] ?? 0, nanos: one.head.nanos[line] ?? 0, one, line }))
    );
    const oldest = newest([...this.#hits, ...drafts], this.#query.most).at(-1);
    const kept = drafts.filter((draft) => oldest === undefined || !isNewer(oldest, draft));
    const bySegment = new Map<FoundInSegment, number[]>();
    for (const { one, line } of kept) bySegment.set(one, [...(bySegment.get(one) ?? []), line]);
    const read = await this.#cache.parts(
      [...bySegment].map(([{ segment, summary, head }, lines]) => ({
        segment,
        parts: [...new Set(lines.map((line) => partOf(summary.groups[head.group[line] ?? 0]?.part ?? 0)))]
      }))
    );
    for (const [{ segment, summary, head }, lines] of bySegment) {
      const parts = read.get(segment.id)?.parts;
      if (parts === undefined) continue;
      const texts = textsOf(summary, head, parts);
      for (const line of lines) {
        const { text, shape } = texts(line);
        const found = {
          at: (head.at[line] ?? 0) as Instant,
          nanos: head.nanos[line] ?? 0,
          severity: head.severity[line] ?? 0,
          resourceId: head.resource[line] === 0 ? null : (head.resource[line] ?? null),
          ...{ text, shape }
        };
        this.#hits.push(this.#hit(segment.streamId, found));
      }
    }
    this.#hits = newest(this.#hits, this.#query.most);
  }

  /** Before which no line is shown any more: there are enough newer ones. */
  #oldestWanted(): number {
    if (this.#hits.length < this.#query.most) return -Infinity;
    this.#hits = newest(this.#hits, this.#query.most);
    return this.#hits.at(-1)?.at ?? -Infinity;
  }

  #barOf(at: number): number {
    return Math.floor((at - this.#barsFrom) / this.#query.step);
  }

  #counts(at: number, severity: number, count: number): void {
    const place = this.#barOf(at) * classes + (classOf[severity] ?? 0);
    this.#bars[place] = (this.#bars[place] ?? 0) + count;
    this.#count += count;
  }

  #hit(streamId: number, line: ShortLine): Hit {
    let found: FoundLine | null = null;
    const read = () =>
      (found ??= listedLine(streamId, line, this.#walk.matcher.marks(line.text.slice(0, mostListed).toWellFormed())));
    return { at: line.at, nanos: line.nanos, read };
  }
}

const barsOf = (counts: Float64Array): number[][] =>
  Array.from({ length: counts.length / classes }, (_, bar) => [...counts.subarray(bar * classes, (bar + 1) * classes)]);

import {
  isTallied,
  searchedLine,
  severityName,
  type FieldValue,
  type LogTally as Tallied,
  type StreamContext
} from '$lib/core/logs';
import { fieldReader, partsOfField } from '$lib/core/logs/segment';
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

/** What is counted: lines that are found, by the values of a field. */
export interface TallyQuery extends WalkQuery {
  readonly by: string;
  /** Values that are wanted, the most frequent. */
  readonly most: number;
}

/** Values that are told apart; lines of further ones are counted together. */
const mostValues = 20_000;
/** Characters of a value that are looked at. */
const longestValue = 500;

/** Counts lines by the values of one field, a piece at a time. */
export class LogTally {
  readonly #query: TallyQuery;
  readonly #walk: LogWalk;
  readonly #counts = new Map<string, number>();
  #without = 0;
  #beyond = 0;
  #count = 0;

  /** @throws Refusal for a search that cannot be read */
  constructor(query: TallyQuery, searched: Searched, cache: SegmentCache) {
    this.#query = query;
    this.#walk = new LogWalk(query, searched, cache, {
      waiting: (_streamId, context, lines) => this.#addWaiting(context, lines),
      isSaid: (planned) => this.#isSaid(planned),
      partsOf: (summary) => partsOfField(summary, query.by),
      sealed: (found) => this.#addSealed(found)
    });
  }

  get isDone(): boolean {
    return this.#walk.isDone;
  }

  async goOn(): Promise<void> {
    await this.#walk.goOn();
  }

  /** What is counted so far. */
  result(): Tallied {
    const sorted = [...this.#counts].sort(([a, many], [b, more]) => more - many || (a < b ? -1 : 1));
    const values = sorted.slice(0, this.#query.most).map(([value, count]) => ({ value, count }));
    const { looked, took, isDone } = this.#walk;
    return {
      values,
      count: this.#count,
      without: this.#without,
      others: {
        values: sorted.length - values.length,
        lines: sorted.slice(values.length).reduce((sum, [, count]) => sum + count, this.#beyond)
      },
      ...{ looked, took, isDone }
    };
  }

  #addWaiting(context: StreamContext, lines: readonly ShapedLine[]): void {
    for (const line of lines)
      this.#add(
        this.#query.by === 'severity' ? severityOf(line.severity) : searchedLine(line, context).field(this.#query.by),
        1
      );
  }

  /** Of a segment of which every line is found, the summary has the severities. */
  #isSaid(planned: PlannedSegment): boolean {
    if (this.#query.by !== 'severity' || !isFoundWhole(planned, this.#query.range)) return false;
    for (const [severity, count] of planned.summary.severities.entries()) this.#add(severityOf(severity), count);
    return true;
  }

  #addSealed(found: readonly FoundInSegment[]): void {
    const { by } = this.#query;
    for (const { context, summary, head, parts, lines } of found) {
      const read = fieldReader(summary, context, head, parts);
      for (const line of lines) this.#add(by === 'severity' ? severityOf(head.severity[line] ?? 0) : read(by, line), 1);
    }
  }

  #add(value: FieldValue | undefined, lines: number): void {
    if (lines === 0) return;
    this.#count += lines;
    if (value === undefined || !isTallied(value)) {
      this.#without += lines;
      return;
    }
    const text = String(value).slice(0, longestValue);
    const known = this.#counts.get(text);
    if (known !== undefined) this.#counts.set(text, known + lines);
    else if (this.#counts.size < mostValues) this.#counts.set(text, lines);
    else this.#beyond += lines;
  }
}

const severityOf = (severity: number): string | undefined => severityName(severity) ?? undefined;

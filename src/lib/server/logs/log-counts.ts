import {
  fieldExtractor,
  holdsFor,
  LineCells,
  matcherOf,
  numberOf,
  patternFields,
  relaxed,
  searchedLine,
  severityName,
  shapeText,
  type CountedGroup,
  type ExtractedFields,
  type FieldStatistic,
  type FieldValue,
  type LinePattern,
  type Matcher,
  type Search,
  type SegmentSummary,
  type StreamContext
} from '$lib/core/logs';
import { fieldReader, partOf, partsOfField, textsOf } from '$lib/core/logs/segment';
import { cellAt, gridEnd, type Grid, type Range } from '$lib/core/time';
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

/** What is counted cell by cell. */
export interface CountsQuery extends Omit<WalkQuery, 'text' | 'range'> {
  readonly search: Search;
  readonly grid: Grid;
  /** Fields by whose values lines are told apart. */
  readonly by: readonly string[];
  /** A field whose numbers are taken; null counts lines. */
  readonly of: { readonly field: string; readonly statistic: FieldStatistic } | null;
  /** How fields are read from texts; null for those that lines have. */
  readonly pattern: LinePattern | null;
  /** Groups that are told apart. */
  readonly most: number;
}

/** What came of counting. */
export interface Counted {
  readonly groups: readonly CountedGroup[];
  /** Lines that were counted, and those that a pattern did not match. */
  readonly lines: number;
  readonly unmatched: number;
  /** Where the numbers of a field are wanted: lines of each cell that a search finds and that have no such number, or that its pattern does not match. Null where lines are counted. */
  readonly lacking: Float64Array | null;
  /** When the earliest line is of that may be one of them, whatever the grid; infinity where there is none. */
  readonly since: number;
  /** Whether percentiles are of a part of the numbers. */
  readonly isPartial: boolean;
}

/** Characters that are said of a shape. */
const longestShape = 120;
/** Names of what every line of a stream has alike. */
const ofStream: readonly string[] = ['service', 'account', 'stream'];

/** Counts lines cell by cell, a piece at a time. */
export class LogCounts {
  readonly #query: CountsQuery;
  readonly #walk: LogWalk;
  readonly #searched: Searched;
  /** What shapes say, by stream and id. */
  readonly #shapes = new Map<string, string>();
  readonly #range: Range;
  readonly #cells: LineCells;
  readonly #extract: ((text: string) => ExtractedFields | null) | null;
  /** The whole search, tried once the fields of a pattern are known; null where finding a line is enough. */
  readonly #matcher: Matcher | null;
  #lines = 0;
  #unmatched = 0;
  readonly #lacking: Float64Array | null;

  constructor(query: CountsQuery, searched: Searched, cache: SegmentCache) {
    const { grid, pattern, search } = query;
    this.#query = query;
    this.#searched = searched;
    this.#range = { from: grid.start, to: gridEnd(grid) };
    this.#cells = new LineCells(grid, query.of?.statistic ?? null, query.most);
    this.#lacking = query.of === null ? null : new Float64Array(grid.count);
    this.#extract = pattern === null ? null : fieldExtractor(pattern);
    const known = pattern === null ? [] : patternFields(pattern);
    // Fields that depend on the line may hide any that the search asks for.
    const isLater = (field: string): boolean =>
      pattern !== null && !isAlways(field) && (known.length === 0 || known.includes(field));
    this.#matcher = pattern === null ? null : matcherOf(search);
    const text = pattern === null ? search : relaxed(search, isLater);
    this.#walk = new LogWalk({ ...query, text, range: this.#range }, searched, cache, {
      waiting: (streamId, context, lines) => this.#addWaiting(streamId, context, lines),
      isSaid: (planned) => this.#isSaid(planned),
      partsOf: (summary) => this.#partsOf(summary),
      sealed: (found) => this.#addSealed(found)
    });
  }

  get isDone(): boolean {
    return this.#walk.isDone;
  }

  goOn(): Promise<void> {
    return this.#walk.goOn();
  }

  result(): Omit<Counted, 'since'> {
    return {
      groups: this.#cells.groups(),
      lines: this.#lines,
      unmatched: this.#unmatched,
      lacking: this.#lacking,
      isPartial: this.#cells.isPartial
    };
  }

  #partsOf(summary: SegmentSummary): number[] {
    const { by, of, pattern } = this.#query;
    const fields = [...by, ...(of === null ? [] : [of.field])].flatMap((name) => partsOfField(summary, name));
    return pattern === null ? fields : [...fields, ...summary.groups.map(({ part }) => partOf(part))];
  }

  #addWaiting(streamId: number, context: StreamContext, lines: readonly ShapedLine[]): void {
    for (const line of lines) {
      const searched = searchedLine(line, context);
      this.#add(streamId, line.at, line.text, line.severity, searched.field);
    }
  }

  /** Where every line of a segment is found, in one cell, its summary says what is asked by its stream or severities. */
  #isSaid(planned: PlannedSegment): boolean {
    const { by, of, pattern, grid } = this.#query;
    if (of !== null || pattern !== null || !by.every((name) => name === 'severity' || ofStream.includes(name)))
      return false;
    const { segment, context, summary } = planned;
    if (cellAt(grid, segment.from) !== cellAt(grid, segment.to) || !isFoundWhole(planned, this.#range)) return false;
    const valuesOf = (severity: number) =>
      by.map((name) => (name === 'severity' ? severityText(severity) : String(context[name as 'service'])));
    if (by.includes('severity')) {
      for (const [severity, count] of summary.severities.entries())
        if (count > 0) this.#count(segment.from, valuesOf(severity), count, NaN);
    } else this.#count(segment.from, valuesOf(0), summary.lines, NaN);
    return true;
  }

  #addSealed(found: readonly FoundInSegment[]): void {
    for (const { segment, context, summary, head, parts, lines } of found) {
      const read = fieldReader(summary, context, head, parts);
      const texts = this.#extract === null ? null : textsOf(summary, head, parts);
      for (const line of lines)
        this.#add(
          segment.streamId,
          head.at[line] ?? 0,
          texts === null ? '' : texts(line).text,
          head.severity[line] ?? 0,
          (name) => read(name, line)
        );
    }
  }

  /** What the lines of a shape say. */
  #shapeText(streamId: number, shape: FieldValue | undefined): string {
    const key = `${streamId} ${String(shape)}`;
    let text = this.#shapes.get(key);
    if (text === undefined) {
      text = shapeText(this.#searched.shapeOf(streamId, Number(shape))?.words ?? []).slice(0, longestShape);
      this.#shapes.set(key, text);
    }
    return text;
  }

  #add(
    streamId: number,
    at: number,
    text: string,
    severity: number,
    field: (name: string) => FieldValue | undefined
  ): void {
    let read = field;
    if (this.#extract !== null) {
      const extracted = this.#extract(text);
      if (extracted === null) {
        this.#unmatched++;
        this.#lack(at);
        return;
      }
      read = (name) => (!isAlways(name) && Object.hasOwn(extracted, name) ? extracted[name] : field(name));
    }
    if (this.#matcher !== null && !this.#matcher.matches({ text, severity, field: read })) return;
    const { by, of } = this.#query;
    const values = by.map((name) => {
      if (name === 'severity') return severityText(severity);
      return name === 'shape' ? this.#shapeText(streamId, read(name)) : String(read(name) ?? '');
    });
    const number = of === null ? NaN : numberIn(read(of.field));
    if (Number.isNaN(number)) this.#lack(at);
    this.#count(at, values, 1, number);
  }

  /** Notes that a line has no number, where numbers are wanted. */
  #lack(at: number): void {
    if (this.#lacking === null) return;
    const cell = cellAt(this.#query.grid, at);
    if (cell >= 0 && cell < this.#lacking.length) this.#lacking[cell] = (this.#lacking[cell] ?? 0) + 1;
  }

  #count(at: number, values: readonly string[], lines: number, number: number): void {
    this.#lines += lines;
    this.#cells.add(at, values, lines, number);
  }
}

const isAlways = (name: string): boolean => name === 'severity' || name === 'resource' || ofStream.includes(name);
const severityText = (severity: number): string => severityName(severity) ?? '';
const numberIn = (value: FieldValue | undefined): number => (value === undefined ? NaN : numberOf(value));

/** When the earliest line of the streams is of in which a search may find some. */
export function earliestOf({ search, accounts }: Pick<CountsQuery, 'search' | 'accounts'>, searched: Searched): number {
  const may = new Set<number>();
  for (const [id, stream] of searched.streams)
    if ((accounts === null || accounts.includes(stream.accountId)) && holdsFor(search, stream) !== false) may.add(id);
  let earliest = Infinity;
  for (const { streamId, from } of searched.segments) if (from < earliest && may.has(streamId)) earliest = from;
  for (const [streamId, [first]] of searched.heads)
    if (first !== undefined && first.at < earliest && may.has(streamId)) earliest = first.at;
  return earliest;
}

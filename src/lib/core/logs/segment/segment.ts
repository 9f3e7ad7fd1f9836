import type { Instant } from '../../time';
import { mostSeverity } from '../severity';
import { valueText, type Line, type LogFields, type LogValue, type Origin } from '../line';
import { others, readField, writeFieldColumns } from './fields';
import { filterOf } from './filter';
import { ranksOf, writeHead, type SegmentHead } from './head';
import { originKey } from './origin';
import { columnIn, partOf, Parts, restPart } from './parts';
import { readRest, writeRest, type Rest } from './rest';
import type { SegmentSummary } from './summary';
import { readTexts, writeTexts } from './texts';

/** A segment as it is kept: its parts are compressed one by one, and read when they are needed. */
export interface WrittenSegment {
  readonly summary: SegmentSummary;
  readonly parts: readonly Uint8Array[];
}

/**
 * Writes lines as columns.
 *
 * @param lines in the order of their times, from 1 to 65,535
 * @param shapes their shapes, in the same order
 * @example const { summary, parts } = writeSegment(lines, shapes)
 */
export function writeSegment(lines: readonly Line[], shapes: readonly number[]): WrittenSegment {
  const parts = new Parts();
  const texts = writeTexts(
    lines.map(({ text }) => text),
    shapes
  );
  const originList: Origin[] = [];
  const originOf = placesOf(
    lines,
    ({ origin }) => originKey(origin),
    ({ origin }) => originList.push(origin)
  );
  parts.add(writeHead(lines, texts.groupOf, texts.alone, originOf), true);
  parts.add(writeRest(lines), true);
  const groups = texts.groups.map(({ bytes, ...group }) => ({ ...group, part: parts.add(bytes) }));
  parts.close();
  const fields = writeFieldColumns(lines, parts);
  const severities = new Array<number>(mostSeverity + 1).fill(0);
  for (const { severity } of lines) severities[severity] = (severities[severity] ?? 0) + 1;
  return {
    summary: {
      lines: lines.length,
      from: (lines[0] as Line).at,
      to: (lines.at(-1) as Line).at,
      severities,
      groups: groups.map(({ part, ...group }) => ({ ...group, part })),
      origins: originList,
      fields,
      traces: filterOf(new Set(lines.flatMap(({ trace }) => (trace === '' ? [] : trace)))),
      raw: lines.reduce((sum, line) => sum + rawBytes(line), 0)
    },
    parts: parts.all()
  };
}

/** About as many bytes as a line has where it is sent as text. @example rawBytes(line) // 122 */
export function rawBytes({ text, fields, trace, span }: Pick<Line, 'text' | 'fields' | 'trace' | 'span'>): number {
  let bytes = 30 + text.length + trace.length + span.length;
  for (const [name, value] of Object.entries(fields)) bytes += name.length + valueText(value).length + 2;
  return bytes;
}

/** Numbers of things that are the same, in the order in which they are first met. */
function placesOf<One>(all: readonly One[], keyOf: (one: One) => unknown, isNew: (one: One) => void): Uint32Array {
  const known = new Map<unknown, number>();
  const places = new Uint32Array(all.length);
  for (const [index, one] of all.entries()) {
    const key = keyOf(one);
    let place = known.get(key);
    if (place === undefined) {
      known.set(key, (place = known.size));
      isNew(one);
    }
    places[index] = place;
  }
  return places;
}

/** Parts that some lines of a segment need to be shown whole. */
export function partsOfLines(summary: SegmentSummary, head: SegmentHead, lines: readonly number[]): number[] {
  const groups = new Set(lines.map((line) => summary.groups[head.group[line] ?? 0]?.part ?? 0));
  const places = [...groups, ...summary.fields.map(({ part }) => part)].map(partOf);
  return [...new Set([restPart, ...places])].sort((a, b) => a - b);
}

/**
 * Lines of a segment, whole.
 *
 * @param parts by their numbers, those of {@link partsOfLines} among them
 */
export function readLines(
  summary: SegmentSummary,
  head: SegmentHead,
  parts: ReadonlyMap<number, Uint8Array>,
  wanted: readonly number[]
): (Line & { readonly shape: number })[] {
  const partAt = (place: number): Uint8Array => {
    const part = parts.get(partOf(place));
    if (part === undefined) throw new RangeError(`segment: part ${partOf(place)} is missing`);
    return part;
  };
  const rest = readRest(parts.get(restPart) ?? new Uint8Array(0), head.at);
  const columns = summary.fields.map((field) => ({
    name: field.name,
    values: readField(field, partAt(field.part), summary.lines)
  }));
  const ranks = ranksOf(head.group);
  const groups = new Map<number, ReturnType<typeof readTexts>>();
  const textsOf = (number: number) => {
    let texts = groups.get(number);
    const group = summary.groups[number];
    if (group === undefined) throw new RangeError('segment: a line of no group');
    if (texts === undefined) groups.set(number, (texts = readTexts(group, columnIn(partAt(group.part), group.part))));
    return texts;
  };
  return wanted.map((line) => {
    const number = head.group[line] ?? 0;
    const rank = ranks[line] ?? 0;
    const fields: [string, LogValue][] = [];
    for (const { name, values } of columns) {
      if (!values.has(line)) continue;
      const value = values.get(line) ?? null;
      if (name === others) fields.push(...Object.entries(value as LogFields));
      else fields.push([name, value]);
    }
    return {
      at: (head.at[line] ?? 0) as Instant,
      nanos: head.nanos[line] ?? 0,
      severity: head.severity[line] ?? 0,
      text: textsOf(number)[rank] ?? '',
      shape: summary.groups[number]?.shape ?? head.alone[rank] ?? 0,
      fields: Object.fromEntries(fields),
      origin: summary.origins[head.origin[line] ?? 0] as Origin,
      resourceId: head.resource[line] === 0 ? null : (head.resource[line] ?? null),
      ...(rest[line] as Rest)
    };
  });
}

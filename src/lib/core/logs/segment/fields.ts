import { valueText, type Line, type LogValue } from '../line';
import { numberOf } from '../search/match';
import { ByteReader, ByteWriter } from './bytes';
import { filterOf } from './filter';
import { columnIn, type Parts } from './parts';
import { readColumn, writeColumn } from './values';

/** What is known of a field of the lines of a segment without reading them. */
export interface FieldSummary {
  readonly name: string;
  /** How many of the lines have it. */
  readonly lines: number;
  /** Its different values as text, in small letters, and as numbers where they are some, where they are few; null where they are many. */
  readonly values: readonly string[] | null;
  /** Whole values as text, in small letters, where they are many. */
  readonly filter: Uint8Array;
  /** The part that holds it. */
  readonly part: number;
}

/** Fields that have columns of their own; the others stand together. */
const mostColumns = 200;
/** Different values of a field that are named in the summary, and how long they may be, characters. */
const mostValues = 32;
const longestValue = 80;
/** The name of the column of all fields that have none of their own: no field can be called so, since names are not empty. */
export const others = '';

/** Writes the fields of lines, those that many have as columns of their own. */
export function writeFieldColumns(lines: readonly Line[], parts: Parts): FieldSummary[] {
  const byName = new Map<string, { lines: number[]; values: LogValue[] }>();
  for (const [index, { fields }] of lines.entries())
    for (const [name, value] of Object.entries(fields)) {
      let column = byName.get(name);
      if (column === undefined) byName.set(name, (column = { lines: [], values: [] }));
      column.lines.push(index);
      column.values.push(value);
    }
  const named = [...byName].sort(([, a], [, b]) => b.lines.length - a.lines.length);
  const summaries = named.slice(0, mostColumns).map(([name, column]) => writeField(name, column, lines.length, parts));
  const left = named.slice(mostColumns);
  if (left.length === 0) return summaries;
  const together = new Map<number, [string, LogValue][]>();
  for (const [name, column] of left)
    column.lines.forEach((line, index) => {
      const own = together.get(line);
      const entry: [string, LogValue] = [name, column.values[index] ?? null];
      if (own === undefined) together.set(line, [entry]);
      else own.push(entry);
    });
  const ordered = [...together].sort(([a], [b]) => a - b);
  const column = {
    lines: ordered.map(([line]) => line),
    values: ordered.map(([, entries]) => Object.fromEntries(entries))
  };
  return [...summaries, writeField(others, column, lines.length, parts)];
}

/** What a value is looked for by: its text in small letters, and its number as the shortest text where it is one. */
function searchedTexts(value: LogValue): string[] {
  const text = valueText(value).toLowerCase();
  const number = numberOf(text);
  return Number.isNaN(number) || String(number) === text ? [text] : [text, String(number)];
}

function writeField(
  name: string,
  column: { readonly lines: readonly number[]; readonly values: readonly LogValue[] },
  length: number,
  parts: Parts
): FieldSummary {
  const writer = new ByteWriter(column.values.length * 4);
  writer.byte(column.lines.length === length ? 0 : 1);
  if (column.lines.length < length) {
    let before = -1;
    for (const line of column.lines) {
      writer.varint(line - before - 1);
      before = line;
    }
  }
  writeColumn(writer, column.values);
  const texts = new Set(column.values.flatMap(searchedTexts));
  const isFew = texts.size <= mostValues && [...texts].every((text) => text.length <= longestValue);
  return {
    ...{ name, lines: column.lines.length, part: parts.add(writer.bytes()) },
    values: name === others || !isFew ? null : [...texts],
    filter: name === others || isFew ? new Uint8Array(0) : filterOf(texts)
  };
}

/** The values of a field by line; lines that have it not are left out. */
export function readField({ lines, part }: FieldSummary, bytes: Uint8Array, length: number): Map<number, LogValue> {
  const reader = new ByteReader(columnIn(bytes, part));
  const at: number[] = [];
  if (reader.byte() === 0) for (let line = 0; line < length; line++) at.push(line);
  else for (let index = 0, line = -1; index < lines; index++) at.push((line += reader.varint() + 1));
  const values = readColumn(reader, at.length);
  return new Map(at.map((line, index) => [line, values[index] ?? null] as const));
}

import { wordsIn } from '../search/words';
import { ByteReader, ByteWriter } from './bytes';
import { filterOf } from './filter';
import { readStrings, writeStrings } from './strings';

/** Texts of lines that are alike: what stands in all of them, and where they differ. */
export interface TextGroup {
  /** The shape that its lines have; null for lines of different ones. */
  readonly shape: number | null;
  /** Where they have different ones: which, and how many lines each has. */
  readonly several: readonly (readonly [shape: number, lines: number])[];
  /** Texts and, as null, the places where lines differ; null for lines that stand as they are. */
  readonly pieces: readonly (string | null)[] | null;
  readonly lines: number;
  /** The words that stand where lines differ. */
  readonly filter: Uint8Array;
}

/** Longest text that is looked at for what it has in common with others, characters, and how many words it may have. */
const longestText = 4000;
const mostWords = 100;
/** Lines from which on a group is worth its own columns. */
const leastLines = 4;

const between = /([\s=()[\]{}"',;|]+)/;

/** Groups of texts with, for each text, which group it is in. */
export interface GroupedTexts {
  readonly groups: readonly (TextGroup & { readonly bytes: Uint8Array })[];
  readonly groupOf: Uint16Array;
  /** Shapes of the lines of the last group where these are different ones, in their order. */
  readonly alone: readonly number[];
}

/**
 * Writes texts by their shapes: what all lines of a shape say once, and for each place where they differ a column.
 *
 * @param shapes of the texts, in the same order
 */
export function writeTexts(texts: readonly string[], shapes: readonly number[]): GroupedTexts {
  const found = new Map<string, { shape: number; lines: number[]; split: string[][] }>();
  const alone: number[] = [];
  for (const [index, text] of texts.entries()) {
    const split = text.length > longestText ? [] : text.split(between);
    if (split.length === 0 || split.length > 2 * mostWords) {
      alone.push(index);
      continue;
    }
    let key = String(shapes[index]);
    for (let at = 1; at < split.length; at += 2) key += `\u0000${split[at]}`;
    const group = found.get(key);
    if (group === undefined) found.set(key, { shape: shapes[index] ?? 0, lines: [index], split: [split] });
    else {
      group.lines.push(index);
      group.split.push(split);
    }
  }
  const groupOf = new Uint16Array(texts.length);
  const groups: (TextGroup & { readonly bytes: Uint8Array })[] = [];
  // Those with the most lines have the smallest numbers.
  for (const group of [...found.values()].sort((a, b) => b.lines.length - a.lines.length)) {
    if (group.lines.length < leastLines) {
      alone.push(...group.lines);
      continue;
    }
    for (const line of group.lines) groupOf[line] = groups.length;
    groups.push(writeGroup(group.shape, group.split));
  }
  if (alone.length > 0) {
    alone.sort((a, b) => a - b);
    for (const line of alone) groupOf[line] = groups.length;
    const own = alone.map((line) => texts[line] ?? '');
    const writer = new ByteWriter();
    writeStrings(writer, own);
    const filter = filterOf(wordSet(own));
    const several = new Map<number, number>();
    for (const line of alone) several.set(shapes[line] ?? 0, (several.get(shapes[line] ?? 0) ?? 0) + 1);
    groups.push({
      ...{ shape: null, several: [...several], pieces: null, lines: alone.length },
      ...{ filter, bytes: writer.bytes() }
    });
  }
  return { groups, groupOf, alone: alone.map((line) => shapes[line] ?? 0) };
}

function writeGroup(shape: number, split: readonly string[][]): TextGroup & { readonly bytes: Uint8Array } {
  const [first = []] = split;
  const writer = new ByteWriter(split.length * 8);
  const pieces: (string | null)[] = [];
  const words = new Set<string>();
  for (let at = 0; at < first.length; at++) {
    const value = first[at] ?? '';
    if (at % 2 === 1 || split.every((one) => one[at] === value)) {
      const last = pieces.at(-1);
      if (typeof last === 'string') pieces[pieces.length - 1] = last + value;
      else pieces.push(value);
      continue;
    }
    const column = split.map((one) => one[at] ?? '');
    pieces.push(null);
    writeStrings(writer, column);
    wordSet(column, words);
  }
  return { shape, several: [], pieces, lines: split.length, filter: filterOf(words), bytes: writer.bytes() };
}

function wordSet(texts: readonly string[], words = new Set<string>()): Set<string> {
  for (const text of new Set(texts)) for (const { word } of wordsIn(text)) words.add(word);
  return words;
}

/** The texts of a group, in the order of its lines. */
export function readTexts({ pieces, lines }: Pick<TextGroup, 'pieces' | 'lines'>, bytes: Uint8Array): string[] {
  const reader = new ByteReader(bytes);
  if (pieces === null) return readStrings(reader, lines);
  const columns = pieces.map((piece) => (piece === null ? readStrings(reader, lines) : piece));
  return Array.from({ length: lines }, (_, line) => {
    let text = '';
    for (const column of columns) text += typeof column === 'string' ? column : (column[line] ?? '');
    return text;
  });
}

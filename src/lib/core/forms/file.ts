import { isScalar, LineCounter, parseDocument, stringify, visit, type Document } from 'yaml';
import type { z } from 'zod';
import { formOf } from '../words/count';
import { tooDeepLine } from './nesting';
import { issuesOf, type Issue } from './problems';

/** How definitions are written as files. */
export const fileFormats = ['yaml', 'json'] as const;
export type FileFormat = (typeof fileFormats)[number];

/** A larger text is refused before it is read, characters. */
export const longestFile = 2_000_000;

/** What is wrong with a file: the place in it, the line where that is known, and in words. */
export interface FileProblem {
  readonly path: string;
  /** From 1; null when the place is not in the text. */
  readonly line: number | null;
  readonly message: string;
}

export interface UnreadableFile {
  readonly kind: 'unreadable';
  readonly problems: readonly FileProblem[];
}

/** One kind of file. */
export interface FileForm<Content> {
  /** What its first line says. */
  readonly kind: string;
  /** What it holds, as it is called in sentences, with its article. @example 'a board' */
  readonly what: string;
  /** The version of files that are written, and the newest that can be read. */
  readonly version: number;
  /** Of the whole file, with its kind and version. */
  readonly schema: z.ZodType<Content>;
}

/**
 * Something plain as the text of a file: keys in a fixed order, so that the same gives the same text everywhere.
 *
 * @param keyOrder keys that come first; others follow by the alphabet
 */
export function fileText(plain: unknown, format: FileFormat, keyOrder: readonly string[]): string {
  const value = ordered(plain, keyOrder);
  return format === 'json' ? `${JSON.stringify(value, null, 2)}\n` : stringify(value, { lineWidth: 120 });
}

function ordered(value: unknown, keyOrder: readonly string[]): unknown {
  if (Array.isArray(value)) return value.map((one) => ordered(one, keyOrder));
  if (typeof value !== 'object' || value === null) return value;
  const rank = (key: string) => {
    const at = keyOrder.indexOf(key);
    return at === -1 ? keyOrder.length : at;
  };
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, one]) => one !== undefined)
      .sort(([a], [b]) => rank(a) - rank(b) || (a < b ? -1 : a > b ? 1 : 0))
      .map(([key, one]) => [key, ordered(one, keyOrder)])
  );
}

/**
 * Reads the text of a file, YAML or JSON. Nothing is guessed: what is unknown, of another version or wrong is reported with its line, all of it at once.
 */
export function readFileText<Content>(
  text: string,
  { kind, what, version: newest, schema }: FileForm<Content>
): { readonly kind: 'read'; readonly content: Content } | UnreadableFile {
  const refused = (message: string): UnreadableFile => ({
    kind: 'unreadable',
    problems: [{ path: '', line: null, message }]
  });
  if (text.length > longestFile)
    return refused(
      `The file has ${Math.round(text.length / 1_000_000)} MB; ${what} has at most ${longestFile / 1_000_000}. It is probably not ${what}.`
    );
  const deep = tooDeepLine(text);
  if (deep !== null)
    return {
      kind: 'unreadable',
      problems: [{ path: '', line: deep, message: `It is nested too deeply to be ${what}.` }]
    };
  const lines = new LineCounter();
  // The reader compares each key with each other to find one that is there twice: that is done below, once for each.
  const document = parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: false });
  const twice = keyTwice(document);
  if (twice !== null)
    return {
      kind: 'unreadable',
      problems: [{ path: '', line: lines.linePos(twice.at).line, message: `The key ${twice.key} is there twice.` }]
    };
  const [error] = document.errors;
  if (error)
    return {
      kind: 'unreadable',
      problems: [
        { path: '', line: lines.linePos(error.pos[0]).line, message: `It is neither YAML nor JSON: ${error.message}.` }
      ]
    };
  let value: unknown;
  try {
    value = document.toJS({ maxAliasCount: 20 });
  } catch (thrown) {
    if (!(thrown instanceof ReferenceError)) throw thrown;
    return refused(`It refers to itself too often to be ${what}.`);
  }
  if (typeof value !== 'object' || value === null || (value as { kind?: unknown }).kind !== kind)
    return refused(`It is not a file of ${what}: the first line of one is “kind: ${kind}”.`);
  const { version } = value as { version?: unknown };
  if (typeof version === 'number' && version > newest)
    return refused(
      `It was written by a newer Bussola, in version ${version} of such files; this one reads version ${newest}. Update this Bussola first.`
    );
  const read = schema.safeParse(value);
  if (read.success) return { kind: 'read', content: read.data };
  return {
    kind: 'unreadable',
    problems: issuesOf(read.error)
      .slice(0, 50)
      .map((one) => problemOf(one, document, lines))
  };
}

/** The line of what a path names in the text of a file, or of the nearest that is there. @example lineIn('a:\n  b: 1', ['a', 'b']) // 2 */
export function lineIn(text: string, path: readonly PropertyKey[]): number | null {
  const lines = new LineCounter();
  return lineOf(path, parseDocument(text, { lineCounter: lines, prettyErrors: false, uniqueKeys: false }), lines);
}

/** A key that a map has twice, and where it stands the second time. */
function keyTwice(document: Document): { readonly key: string; readonly at: number } | null {
  let found: { key: string; at: number } | null = null;
  visit(document, {
    Map: (_place, { items }) => {
      const seen = new Set<unknown>();
      for (const { key } of items) {
        if (!isScalar(key)) continue;
        if (seen.has(key.value)) {
          found = { key: String(key.value).slice(0, 60), at: key.range?.[0] ?? 0 };
          return visit.BREAK;
        }
        seen.add(key.value);
      }
      return undefined;
    }
  });
  return found;
}

function problemOf({ path: at, issue }: Issue, document: Document, lines: LineCounter): FileProblem {
  const unknown = issue.code === 'unrecognized_keys' ? issue.keys : [];
  const [first] = unknown;
  const path = first === undefined ? at : [...at, first];
  return {
    path: path.map(String).join('.'),
    line: lineOf(path, document, lines),
    message:
      first === undefined
        ? issue.message
        : `${unknown.join(' and ')} ${formOf(unknown.length, 'is', 'are')} not known here. Check the spelling, or take ${formOf(unknown.length, 'it', 'them')} away.`
  };
}

/** The line of what a path names, or of the nearest that is there. */
function lineOf(path: readonly PropertyKey[], document: Document, lines: LineCounter): number | null {
  for (let length = path.length; length >= 0; length--) {
    const node: unknown = length === 0 ? document.contents : document.getIn(path.slice(0, length), true);
    const range = (node as { range?: readonly [number, number, number] } | null | undefined)?.range;
    if (range) return lines.linePos(range[0]).line;
  }
  return null;
}

import { formOf } from '../words/count';
import { isScalar, LineCounter, parseDocument, stringify, visit, type Document } from 'yaml';
import { z } from 'zod';
import { tooDeepLine } from '../forms/nesting';
import { issuesOf, type Issue } from '../forms/problems';
import { agree, boardShape, type Board } from './schema';

/** The version of files that are written, and the newest that can be read. */
export const fileVersion = 1;

/** A larger text is refused before it is read, characters. */
export const longestFile = 2_000_000;

/** How a board's file is written. */
export const fileFormats = ['yaml', 'json'] as const;
export type FileFormat = (typeof fileFormats)[number];

/** A board as a file: what it is, of which version, and the board itself, without who made it or whom it belongs to. */
export const boardFileSchema = z
  .strictObject({ kind: z.literal('board'), version: z.literal(fileVersion), ...boardShape })
  .superRefine(agree);

/** What is wrong with a file: the place in it, the line where that is known, and in words. */
export interface FileProblem {
  readonly path: string;
  /** From 1; null when the place is not in the text. */
  readonly line: number | null;
  readonly message: string;
}

export type ReadFile =
  | { readonly kind: 'read'; readonly board: Board }
  | { readonly kind: 'unreadable'; readonly problems: readonly FileProblem[] };

/** The order of keys in files; others follow as they come. */
const keyOrder = [
  'kind',
  'version',
  'id',
  'name',
  'title',
  'about',
  'service',
  'step',
  'zone',
  'label',
  'picture',
  'section',
  'place',
  'x',
  'y',
  'w',
  'h',
  'pickers',
  'sections',
  'panels'
];

/**
 * A board as the text of a file: keys in a fixed order, nothing that is as usual, so that the same board gives the same text everywhere.
 *
 * @example boardFile({ title: 'Tickets', pickers: [], sections: [], panels: [] }, 'yaml') // 'kind: board\nversion: 1\ntitle: Tickets\npanels: []\n'
 */
export function boardFile(board: Board, format: FileFormat): string {
  const { pickers, sections, ...rest } = board;
  const plain = ordered({
    kind: 'board',
    version: fileVersion,
    ...rest,
    ...(pickers.length > 0 ? { pickers } : {}),
    ...(sections.length > 0 ? { sections } : {})
  });
  return format === 'json' ? `${JSON.stringify(plain, null, 2)}\n` : stringify(plain, { lineWidth: 120 });
}

function ordered(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(ordered);
  if (typeof value !== 'object' || value === null) return value;
  const rank = (key: string) => {
    const at = keyOrder.indexOf(key);
    return at === -1 ? keyOrder.length : at;
  };
  return Object.fromEntries(
    Object.entries(value)
      .filter(([, one]) => one !== undefined)
      .sort(([a], [b]) => rank(a) - rank(b) || (a < b ? -1 : a > b ? 1 : 0))
      .map(([key, one]) => [key, ordered(one)])
  );
}

/**
 * Reads the text of a file, YAML or JSON. Nothing is guessed: what is unknown, of another version or wrong is reported with its line, all of it at once.
 *
 * @example readBoardFile('kind: board\nversion: 1\ntitle: Tickets\npanels: []').kind // 'read'
 */
export function readBoardFile(text: string): ReadFile {
  const refused = (message: string): ReadFile => ({
    kind: 'unreadable',
    problems: [{ path: '', line: null, message }]
  });
  if (text.length > longestFile)
    return refused(
      `The file has ${Math.round(text.length / 1_000_000)} MB; a board has at most ${longestFile / 1_000_000}. It is probably not a board.`
    );
  const deep = tooDeepLine(text);
  if (deep !== null)
    return {
      kind: 'unreadable',
      problems: [{ path: '', line: deep, message: 'It is nested too deeply to be a board.' }]
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
    return refused('It refers to itself too often to be a board.');
  }
  if (typeof value !== 'object' || value === null || (value as { kind?: unknown }).kind !== 'board')
    return refused('It is not a board file: the first line of one is “kind: board”.');
  const { version } = value as { version?: unknown };
  if (typeof version === 'number' && version > fileVersion)
    return refused(
      `It was written by a newer Bussola, in version ${version} of such files; this one reads version ${fileVersion}. Update this Bussola first.`
    );
  const read = boardFileSchema.safeParse(value);
  if (read.success) {
    const { kind: _, version: _v, ...board } = read.data;
    return { kind: 'read', board };
  }
  return {
    kind: 'unreadable',
    problems: issuesOf(read.error)
      .slice(0, 50)
      .map((one) => problemOf(one, document, lines))
  };
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

import { gzipSync } from 'node:zlib';
import { linesOf, type LineWorld } from '../world/lines/line';
import { ostroStreams } from '../world/lines/streams';
import { things, type OstroThing } from './world';

/** An export has lines up to so long before it is made. */
const laterMs = 60_000;
/** Lines of an export at most: it ends earlier then. */
const mostLines = 20_000;

/** An export of a thing's lines, as its id says it. */
export interface Export {
  readonly uri: string;
  readonly since: number;
  readonly until: number;
}

export const writesLines = ({ title }: OstroThing): boolean => ostroStreams.some(({ name }) => name === title);

/** An export is its id: nothing is remembered of it. */
export const exportId = (one: Export): string => Buffer.from(JSON.stringify(one)).toString('base64url');

export function exportOf(id: string): Export | null {
  try {
    return JSON.parse(Buffer.from(id, 'base64url').toString('utf8')) as Export;
  } catch {
    return null; // no id of an export
  }
}

/** The file of an export: lines as JSON, packed, and up to when it has all of them. */
export function fileOf(world: LineWorld, one: Export, now: number): { readonly file: Buffer; readonly until: number } {
  const thing = things.find(({ uri }) => uri === one.uri);
  const stream = ostroStreams.find(({ name }) => name === thing?.title);
  const end = Math.min(one.until, now - laterMs);
  if (stream === undefined || one.since >= end) return { file: gzipSync(''), until: Math.min(one.since, one.until) };
  let until = end;
  let lines = linesOf(stream, world, one.since, until);
  if (lines.length > mostLines) {
    until = lines[mostLines]?.at ?? end;
    lines = lines.filter(({ at }) => at < until);
  }
  const text = lines
    .map(({ at, severity, text: message, fields }) =>
      JSON.stringify({ time: new Date(at).toISOString(), severity, message, ...fields })
    )
    .join('\n');
  return { file: gzipSync(text), until };
}

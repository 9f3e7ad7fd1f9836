import { linesOf, type LineWorld } from '../world/lines/line';
import { levanteStreams } from '../world/lines/streams';
import { resources, type LevanteResource } from './world';

/** Lines are there so long after they were written. */
const laterMs = 20_000;
/** Lines of a page, about. */
const pageLines = 5000;

const words: Readonly<Record<number, string>> = { 5: 'DEBUG', 9: 'INFO', 13: 'WARN', 17: 'ERROR', 21: 'FATAL' };

const streamOf = ({ name, type }: LevanteResource) =>
  levanteStreams.find((stream) => stream.name === name && stream.type === type);

/** Resources of an account that write lines. */
export const sourcesOf = (account: string): { readonly resource: string }[] =>
  resources
    .filter((one) => one.account === account && account === 'corallo-prod' && streamOf(one) !== undefined)
    .map(({ id }) => ({ resource: id }));

/**
 * A page of a resource's lines, each a JSON object of one line: those from a moment on, as many as a page has room for.
 *
 * @returns up to when the page has all lines, and whether there are more
 */
export function linesPage(
  world: LineWorld,
  resource: string,
  from: number,
  to: number,
  now: number
): { readonly text: string; readonly until: number; readonly isMore: boolean } {
  const source = resources.find(({ id }) => id === resource);
  const stream = source && streamOf(source);
  const end = Math.min(to, now - laterMs);
  if (stream === undefined || from >= end) return { text: '', until: Math.min(from, to), isMore: false };
  const span = Math.max(60_000, Math.ceil(pageLines / Math.max(1, stream.rate)) * 60_000);
  const until = Math.min(end, from + span);
  const text = linesOf(stream, world, from, until)
    .map(
      ({ at, severity, text: msg, fields }) => `${JSON.stringify({ ts: at, level: words[severity], msg, ...fields })}\n`
    )
    .join('');
  return { text, until, isMore: until < end };
}

import { barStep, fieldExtractor, type ExtractedFields, type LinePattern } from '$lib/core/logs';
import type { Range } from '$lib/core/time';
import { searchLines } from './ask';

/** What a pattern makes of lines that a search finds. */
export interface TriedPattern {
  /** Lines that were tried, the newest, and how many of them match. */
  readonly tried: number;
  readonly matches: number;
  readonly matched: readonly { readonly key: string; readonly text: string; readonly fields: ExtractedFields }[];
  readonly unmatched: readonly { readonly key: string; readonly text: string }[];
}

/** Lines that are tried, and those of each sort that are listed. */
const mostTried = 300;
const mostListed = 6;

/**
 * Tries a pattern on the newest lines that a search finds.
 *
 * @param pattern null for none: then no line matches
 * @param accounts whose lines may be seen; null for all
 * @throws Refusal for a search that cannot be read
 */
export async function tryPattern(
  server: Parameters<typeof searchLines>[0],
  {
    search,
    pattern,
    range,
    accounts
  }: {
    readonly search: string;
    readonly pattern: LinePattern | null;
    readonly range: Range;
    readonly accounts: readonly number[] | null;
  }
): Promise<TriedPattern> {
  const asked = { text: search, range, accounts, most: mostTried, step: barStep(range) };
  let lines: readonly { readonly key: string; readonly text: string }[] = [];
  for await (const progress of searchLines(server, asked, () => lines.length < mostTried)) ({ lines } = progress);
  const extract = pattern === null ? () => null : fieldExtractor(pattern);
  const tried = lines.map(({ key, text }) => ({ key, text, fields: extract(text) }));
  const matched = tried.flatMap(({ fields, ...line }) => (fields === null ? [] : [{ ...line, fields }]));
  const unmatched = tried.filter(({ fields }) => fields === null).map(({ key, text }) => ({ key, text }));
  return {
    tried: tried.length,
    matches: matched.length,
    matched: matched.slice(0, mostListed),
    unmatched: unmatched.slice(0, mostListed)
  };
}

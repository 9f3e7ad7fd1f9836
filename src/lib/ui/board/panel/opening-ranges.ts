import { durationFromText, spokenDuration, usualRange } from '$lib/core/time';

/** Ranges that a board or a panel may open with, as they are offered; the empty one is the usual. */
export const openingRanges = ['', 'PT1H', 'PT6H', 'PT12H', 'P1D', 'P3D', 'P7D', 'P30D'] as const;

/** Those that are offered and the one that is set. @example withOwn(['', 'P1D'], 'P2D') // ['', 'P1D', 'P2D'] */
export const withOwn = (offered: readonly string[], own: string | undefined): string[] => [
  ...new Set([...offered, ...(own === undefined ? [] : [own])])
];

/** A range as people say it. @example spokenRange('P1D') // 'the last day' */
export const spokenRange = (range: string): string => {
  const length = range === '' && usualRange.kind === 'live' ? usualRange.length : durationFromText(range);
  return `the last ${spokenDuration(length).replace(/^1 /, '')}`;
};

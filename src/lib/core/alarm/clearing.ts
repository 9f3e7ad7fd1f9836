import type { Rule } from './schema';

/**
 * A rule by which a series clears after so many windows in a row that are well; with 0, or no number, as soon as it would not be raised any more.
 *
 * @example withClearing(rule, 5).clearing // { needs: 5, of: 5 }
 */
export function withClearing(rule: Rule, windows: number): Rule {
  const { clearing: _, ...rest } = rule;
  return windows >= 1 ? { ...rest, clearing: { needs: windows, of: windows } } : rest;
}

/** What is used of something, what was set aside for it, and what it may use at most, in one unit; null for what is not known. */
export interface Use {
  readonly used: number | null;
  readonly requested: number | null;
  readonly limit: number | null;
}

/** From this share of its limit on, something is near it. */
export const nearLimit = 0.9;

/** How use stands: nothing known, as requested, more than was requested, near the limit. */
export type UseStanding = 'unknown' | 'as requested' | 'above request' | 'near limit';

/**
 * How use stands against request and limit. Without a limit nothing is near it.
 *
 * @example useStanding({ used: 480, requested: 256, limit: 512 }) // 'near limit'
 */
export function useStanding({ used, requested, limit }: Use): UseStanding {
  if (used === null) return 'unknown';
  if (limit !== null && limit > 0 && used >= nearLimit * limit) return 'near limit';
  return requested !== null && used > requested ? 'above request' : 'as requested';
}

/** The share of the limit in use, 0 to 1; null without a limit. @example shareOf({ used: 128, requested: null, limit: 512 }) // 0.25 */
export const shareOf = ({ used, limit }: Use): number | null =>
  used === null || limit === null || limit <= 0 ? null : used / limit;

/**
 * Use of several things together. What is used is the sum of what is known; what is requested and the limit are sums only where all have one, since one
 * without a limit may use anything.
 *
 * @example sumOf([{ used: 1, requested: 1, limit: 2 }, { used: 3, requested: null, limit: 4 }]) // { used: 4, requested: null, limit: 6 }
 */
export function sumOf(uses: readonly Use[]): Use {
  const known = uses.flatMap(({ used }) => used ?? []);
  return {
    used: known.length === 0 ? null : known.reduce((sum, one) => sum + one, 0),
    requested: sumOfAll(uses.map(({ requested }) => requested)),
    limit: sumOfAll(uses.map(({ limit }) => limit))
  };
}

function sumOfAll(values: readonly (number | null)[]): number | null {
  if (values.length === 0) return null;
  return values.reduce<number | null>((sum, one) => (sum === null || one === null ? null : sum + one), 0);
}

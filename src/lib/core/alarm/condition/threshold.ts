import { z } from 'zod';
import { type Bound, type Comparison, type ConditionData } from './comparison';
import type { ConditionKind } from './kind';
import { timesOfCells, timesSchema, timesText } from './times';

const number = (what: string) => z.number({ error: `${what} must be a number.` });
const limit = number('The threshold');
const clear = number('The clearing threshold').optional();

/** Never met at these times. */
const off = z.strictObject({ times: timesSchema, off: z.literal(true) });

/** Other bounds at some times, or none: the first of these whose times hold counts. */
const oneSidedException = z.union([off, z.strictObject({ times: timesSchema, limit })], {
  error: 'At other times it is off, or has another threshold.'
});
const twoSidedException = z.union(
  [
    off,
    z.strictObject({ times: timesSchema, low: limit, high: limit }).refine(({ low, high }) => low <= high, {
      error: 'The lower threshold must not be above the upper.',
      path: ['low']
    })
  ],
  { error: 'At other times it is off, or has two other thresholds.' }
);
export type ThresholdException = z.infer<typeof oneSidedException> | z.infer<typeof twoSidedException>;

const most = 20;

const oneSided = z
  .strictObject({
    kind: z.literal('threshold'),
    is: z.enum(['above', 'below']),
    limit,
    /** Where it may clear, which lies on the well side of the threshold. */
    clear,
    exceptions: z.array(oneSidedException).max(most).optional()
  })
  .refine(({ is, limit, clear }) => clear === undefined || (is === 'above' ? clear <= limit : clear >= limit), {
    error: 'The clearing threshold must lie on the other side of the threshold.',
    path: ['clear']
  });

const twoSided = z
  .strictObject({
    kind: z.literal('threshold'),
    is: z.enum(['inside', 'outside']),
    low: limit,
    high: limit,
    clearLow: clear,
    clearHigh: clear,
    exceptions: z.array(twoSidedException).max(most).optional()
  })
  .refine(({ low, high }) => low <= high, { error: 'The lower threshold must not be above the upper.', path: ['low'] })
  .refine(
    ({ is, low, high, clearLow = low, clearHigh = high }) =>
      is === 'outside' ? clearLow >= low && clearHigh <= high : clearLow <= low && clearHigh >= high,
    { error: 'The clearing thresholds must lie on the other side of the thresholds.', path: ['clearLow'] }
  );

/**
 * Above or below one threshold, or inside or outside of two. Thresholds are in the unit of the signal.
 *
 * @example thresholdSchema.parse({ kind: 'threshold', is: 'above', limit: 80, clear: 70 })
 */
export const thresholdSchema = z.discriminatedUnion('is', [oneSided, twoSided]);
export type Threshold = z.infer<typeof thresholdSchema>;

export const thresholdKind: ConditionKind<Threshold> = {
  needs: () => ({ lead: 0 }),
  compare: (condition, data) => {
    const bounds = boundsOf(condition, data);
    return data.columns.map((subject) => ({ ...bounds, subject }));
  },
  sentence: (condition, { limit }) => {
    const main =
      'limit' in condition
        ? `is ${condition.is} ${limit(condition.limit)}`
        : `is ${condition.is} ${limit(condition.low)} to ${limit(condition.high)}`;
    return [main, ...(condition.exceptions ?? []).map((one) => exceptionText(one, limit))].join('; ');
  }
};

function exceptionText(exception: ThresholdException, limit: (value: number) => string): string {
  const when = timesText(exception.times);
  if ('off' in exception) return `never during ${when}`;
  if ('limit' in exception) return `${limit(exception.limit)} during ${when}`;
  return `${limit(exception.low)} to ${limit(exception.high)} during ${when}`;
}

/** The bounds of every cell, the same for all series. */
function boundsOf(condition: Threshold, { grid, zone }: ConditionData): Omit<Comparison, 'subject'> {
  const usual = sidesOf(condition);
  const exceptions: readonly ThresholdException[] = condition.exceptions ?? [];
  if (exceptions.length === 0) return usual;
  const which = timesOfCells(
    exceptions.map(({ times }) => times),
    grid,
    zone
  );
  const at = exceptions.map((exception) =>
    'off' in exception ? never(usual.meets) : sidesOf(withException(condition, exception))
  );
  const all = [...at, usual];
  const filled = (side: 'low' | 'high' | 'clearLow' | 'clearHigh'): Bound =>
    Float64Array.from(which, (position) => all.at(position)?.[side] as number);
  return {
    low: filled('low'),
    high: filled('high'),
    clearLow: filled('clearLow'),
    clearHigh: filled('clearHigh'),
    meets: usual.meets
  };
}

/** A threshold as it is at the times of an exception: clearing thresholds keep their distance. */
function withException(condition: Threshold, exception: Exclude<ThresholdException, { off: true }>): Threshold {
  if ('limit' in condition)
    return 'limit' in exception
      ? {
          ...condition,
          limit: exception.limit,
          ...(condition.clear !== undefined && { clear: condition.clear + exception.limit - condition.limit })
        }
      : condition;
  if ('limit' in exception) return condition;
  const { low, high } = exception;
  return {
    ...condition,
    low,
    high,
    ...(condition.clearLow !== undefined && { clearLow: condition.clearLow + low - condition.low }),
    ...(condition.clearHigh !== undefined && { clearHigh: condition.clearHigh + high - condition.high })
  };
}

type Sides = Omit<Comparison, 'subject'> & Record<'low' | 'high' | 'clearLow' | 'clearHigh', number>;

/** Bounds that no value lies beyond: all of them are well. */
const never = (meets: Comparison['meets']): Sides => {
  const [low, high] = meets === 'outside' ? [-Infinity, Infinity] : [Infinity, -Infinity];
  return { low, high, clearLow: low, clearHigh: high, meets };
};

function sidesOf(condition: Threshold): Sides {
  if ('limit' in condition) {
    const { is, limit, clear = limit } = condition;
    return is === 'above'
      ? { low: -Infinity, high: limit, clearLow: -Infinity, clearHigh: clear, meets: 'outside' }
      : { low: limit, high: Infinity, clearLow: clear, clearHigh: Infinity, meets: 'outside' };
  }
  const { is, low, high, clearLow = low, clearHigh = high } = condition;
  return { low, high, clearLow, clearHigh, meets: is };
}

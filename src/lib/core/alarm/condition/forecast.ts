import { z } from 'zod';
import { cellAt, cellStart, durationFromText, spokenDuration, times, type Duration, type Grid } from '../../time';
import { lengthSchema } from './length';
import { plainComparison, type Cells, type Comparison } from './comparison';
import type { ConditionKind } from './kind';
import { trendOf } from '../../series';

/**
 * A limit will be reached within so long, by the robust trend of the history before. What is compared is the value expected at the end of that time, at the cautious end of the trend's interval: a trend that
 * may as well be none reaches nothing.
 *
 * @example forecastSchema.parse({ kind: 'forecast', is: 'above', limit: 95, within: 'P4D', from: 'P2D' })
 */
export const forecastSchema = z.strictObject({
  kind: z.literal('forecast'),
  is: z.enum(['above', 'below']),
  limit: z.number({ error: 'The limit must be a number.' }),
  within: lengthSchema,
  /** How much history the trend is made from. */
  from: lengthSchema
});
export type Forecast = z.infer<typeof forecastSchema>;

/** Into about so many cells the history is divided, and at least so many of them must have a value. */
const historyCells = 48;
const leastCells = 12;

export const forecastKind: ConditionKind<Forecast> = {
  needs: ({ from }, step) => ({
    lead: 0,
    history: { step: historyStep(durationFromText(from), step), length: durationFromText(from) }
  }),
  compare: (condition, { grid, columns, history }) => {
    const within = durationFromText(condition.within);
    const length = durationFromText(condition.from);
    return columns.map((values, of): Comparison => {
      const expected = history ? expectations(condition.is, values, grid, history, of, within, length) : NaN;
      const subject = typeof expected === 'number' ? new Float64Array(grid.count).fill(expected) : expected;
      return condition.is === 'above'
        ? plainComparison(subject, -Infinity, condition.limit)
        : plainComparison(subject, condition.limit, Infinity);
    });
  },
  sentence: ({ is, limit, within, from }, words) =>
    `will be ${is} ${words.limit(limit)} within ${spokenDuration(durationFromText(within))}, by the trend of ${spokenDuration(durationFromText(from))}`
};

/**
 * The length of the cells of a forecast's history: a step that people read easily, at least that of the signal.
 *
 * @example historyStep(duration(172_800_000), minute) // 3600000: 48 cells of an hour
 */
export function historyStep(length: Duration, step: Duration): Duration {
  const readable = [60, 300, 600, 900, 1800, 3600, 7200, 10_800, 21_600, 43_200].map((seconds) => seconds * 1000);
  const wanted = readable.find((one) => length / one <= historyCells) ?? 43_200_000;
  return times(1, Math.max(wanted, step) as Duration);
}

/** The value expected so long after each cell; NaN where too little history has values. */
function expectations(
  is: Forecast['is'],
  values: ArrayLike<number>,
  grid: Grid,
  { grid: long, columns }: Cells,
  of: number,
  within: Duration,
  length: Duration
): Float64Array {
  const blocks = columns[of] ?? [];
  const most = Math.max(1, Math.round(length / long.step));
  const expected = new Float64Array(grid.count).fill(NaN);
  let usedUntil = -1;
  let trend: ReturnType<typeof trendOf> = null;
  let origin = 0;
  for (let i = 0; i < grid.count; i++) {
    const end = cellStart(grid, i + 1);
    const until = Math.min(long.count, cellAt(long, end)); // blocks that are over
    if (until !== usedUntil) {
      usedUntil = until;
      const at: number[] = [];
      const known: number[] = [];
      origin = cellStart(long, Math.max(0, until));
      for (let j = Math.max(0, until - most); j < until; j++) {
        const value = blocks[j] as number;
        if (value !== value) continue;
        at.push(cellStart(long, j) + long.step / 2 - origin);
        known.push(value);
      }
      trend = known.length >= leastCells ? trendOf(at, known) : null;
    }
    const value = values[i] as number;
    if (trend === null || value !== value) continue;
    // Of a slope that may as well have the other sign, the cautious end leads away from the limit: what is expected is then the present level.
    const cautious = is === 'above' ? Math.max(0, trend.least) : Math.min(0, trend.most);
    const now = trend.level + trend.slope * (end - origin);
    expected[i] = now + cautious * within;
  }
  return expected;
}

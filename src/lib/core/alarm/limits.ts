import type { Grid } from '../time';
import { boundAt, compareWith } from './condition';
import { withKnob } from './propose';
import type { Level, Rule } from './schema';
import type { Severity } from './severity';

/** A limit that is the same at all times, drawn as a line. */
export interface DrawnLimit {
  readonly value: number;
  readonly severity: Severity;
}

/**
 * The limits of a rule that can be drawn as lines: those of thresholds. What depends on the series or the time is drawn by the rehearsal.
 *
 * @example drawnLimits(rule) // [{ value: 80, severity: 'major' }, { value: 95, severity: 'critical' }]
 */
export const drawnLimits = ({ levels }: Pick<Rule, 'levels'>): DrawnLimit[] =>
  levels.flatMap(({ severity, condition }) => {
    if (condition.kind === 'forecast') return [{ value: condition.limit, severity }];
    if (condition.kind !== 'threshold') return [];
    const values = 'limit' in condition ? [condition.limit] : [condition.low, condition.high];
    return values.filter(Number.isFinite).map((value) => ({ value, severity }));
  });

/** A limit at the times at which it is another than usual. */
export interface OtherLimit {
  readonly severity: Severity;
  /** One number for each cell; NaN where it is as usual, or where there is none. */
  readonly values: Float64Array;
}

/**
 * The limits of thresholds at other hours, on other days and dates, to be drawn beside the usual ones.
 *
 * @example otherLimits(rule, grid) // [] of a rule without exceptions
 */
export function otherLimits({ levels, zone }: Pick<Rule, 'levels' | 'zone'>, grid: Grid): OtherLimit[] {
  return levels.flatMap(({ severity, condition }) => {
    if (condition.kind !== 'threshold' || (condition.exceptions ?? []).length === 0) return [];
    const [bounds] = compareWith(condition, { grid, columns: [new Float64Array(grid.count)], zone });
    if (!bounds) return [];
    const usual = drawnLimits({ levels: [{ severity, condition }] }).map(({ value }) => value);
    return (['low', 'high'] as const).flatMap((side): OtherLimit[] => {
      const values = Float64Array.from({ length: grid.count }, (_, i) => {
        const value = boundAt(bounds[side], i);
        return Number.isFinite(value) && !usual.includes(value) ? value : NaN;
      });
      return values.some((value) => value === value) ? [{ severity, values }] : [];
    });
  });
}

/**
 * A rule with another number in the place of one of its {@link drawnLimits}; a clearing threshold keeps its distance.
 *
 * @param index among the drawn limits; a rule without it is left as it is
 * @example withDrawnLimit(rule, 0, 85) // the threshold of its mildest severity is 85 now
 */
export function withDrawnLimit(rule: Rule, index: number, value: number): Rule {
  let next = 0;
  const levels = rule.levels.map((level): Level => {
    const { condition } = level;
    const count = drawnLimits({ levels: [level] }).length;
    const own = index - next;
    next += count;
    if (own < 0 || own >= count) return level;
    if (condition.kind === 'forecast') return { ...level, condition: { ...condition, limit: value } };
    if (condition.kind !== 'threshold') return level;
    if ('limit' in condition) return { ...level, condition: withKnob(condition, value) };
    const isLow = own === 0 && Number.isFinite(condition.low);
    return { ...level, condition: { ...condition, [isLow ? 'low' : 'high']: value } };
  });
  return { ...rule, levels };
}

import type { Condition, Rule } from './schema';

/** The state of one series of an alarm. */
export type State = 'clear' | 'raised' | 'indeterminate';

/** What one evaluation window says, before the alarm's word on missing data. */
export interface Judgement {
  readonly verdict: 'raised' | 'clear' | 'cannot tell';
  /** Cells of the window whose value meets the condition. */
  readonly met: number;
  /** Cells of the window without a value. */
  readonly missing: number;
}

/** A change of state, decided when the cell at `index` was complete. */
export interface Change extends Judgement {
  readonly index: number;
  readonly from: State;
  readonly to: State;
}

/** @example holds({ is: 'above', threshold: 80 }, 80) // false: above is strictly above */
export const holds = ({ is, threshold }: Condition, value: number): boolean =>
  is === 'above' ? value > threshold : value < threshold;

/**
 * Judges the window that ends with the cell at `index`. With K needed of N: raised when K cells meet the condition; clear when K cannot be
 * reached even if every missing cell met it; otherwise nobody can tell. Cells before the first are missing.
 *
 * @param values aligned values of one series; a gap is NaN
 * @example judgeWindow(Float64Array.of(90, NaN, 91), 2, rule2of3) // { verdict: 'raised', met: 2, missing: 1 }
 */
export function judgeWindow(values: ArrayLike<number>, index: number, rule: Rule): Judgement {
  const { needs, of } = rule.window;
  let met = 0;
  let missing = 0;
  for (let i = index - of + 1; i <= index; i++) {
    const value = i < 0 ? NaN : (values[i] as number);
    if (Number.isNaN(value)) missing++;
    else if (holds(rule.condition, value)) met++;
  }
  const verdict = met >= needs ? 'raised' : met + missing < needs ? 'clear' : 'cannot tell';
  return { verdict, met, missing };
}

/**
 * The state after a judgement.
 *
 *     verdict        clear            raised           indeterminate
 *     raised         raised           raised           raised
 *     clear          clear            clear            clear
 *     cannot tell    indeterminate    indeterminate    indeterminate   whenMissing: indeterminate
 *     cannot tell    clear            raised           indeterminate   whenMissing: keep
 *
 * @example nextState('raised', 'cannot tell', 'keep') // 'raised'
 */
export function nextState(state: State, verdict: Judgement['verdict'], whenMissing: Rule['whenMissing']): State {
  if (verdict !== 'cannot tell') return verdict;
  return whenMissing === 'keep' ? state : 'indeterminate';
}

/**
 * Runs the state machine of one series over cells [start, end), each judged as if it had just been completed. The engine and the rehearsal
 * both call this, so what a rehearsal shows is what the engine does. Cost: cells × window.
 *
 * @param values aligned values; the window of the first judged cell reaches back into those before `start`
 * @param state the state before the first judged cell
 * @returns the changes in order; none when nothing changed
 * @example judgeCells(Float64Array.of(70, 90, 90), rule2of2, 'clear', 1)
 * // [{ index: 2, from: 'clear', to: 'raised', verdict: 'raised', met: 2, missing: 0 }]
 */
export function judgeCells(
  values: ArrayLike<number>,
  rule: Rule,
  state: State,
  start = 0,
  end: number = values.length
): Change[] {
  const changes: Change[] = [];
  for (let index = start; index < end; index++) {
    const judgement = judgeWindow(values, index, rule);
    const to = nextState(state, judgement.verdict, rule.whenMissing);
    if (to !== state) changes.push({ index, from: state, to, ...judgement });
    state = to;
  }
  return changes;
}

import type { Severity } from '$lib/core/alarm';
import type { Objective, ObjectiveStanding } from '$lib/core/objective';

/** The severity of the level that a promise has reached; null for none. @example levelReached(objective, { pace: 15 }) // 'critical' */
export const levelReached = (
  { levels }: Pick<Objective, 'levels'>,
  { pace }: Pick<ObjectiveStanding, 'pace'>
): Severity | null => (pace === null ? null : (levels.findLast(({ rate }) => pace > rate)?.severity ?? null));

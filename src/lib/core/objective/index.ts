export { CountSums, type SpanCounts } from './count-sums';
export { burnRate, errorBudget, periodsLeft, type ErrorBudget } from './error-budget';
export { burnLevels, type BurnLevel } from './burn-levels';
export {
  objectiveForm,
  objectiveMetrics,
  objectiveSchema,
  objectiveStep,
  signalsOfObjective,
  targetOf,
  type Objective,
  type ObjectiveLevel,
  type ObjectiveMeasure,
  type ObjectivePeriod
} from './objective';
export { longestOf, lookbackOf, periodBefore, periodName, periodOver } from './periods';
export { proposedLevels } from './proposed';
export {
  ObjectiveCourse,
  paceOf,
  type Counted,
  type ObjectiveStanding,
  type PastObjectivePeriod,
  type SpanRate,
  type Used
} from './course';
export { leftText, minutesText, promiseWords, rateText, shareText } from './words';

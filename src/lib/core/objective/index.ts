export { CountSums, type SpanCounts } from './count-sums';
export { burnRate, errorBudget, periodsLeft, rollingBudget, type ErrorBudget } from './error-budget';
export { burnLevels, type BurnLevel } from './burn-levels';

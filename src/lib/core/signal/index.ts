// The definition
export {
  asksFor,
  combineSchema,
  fixedStepOf,
  formulaRowSchema,
  isFormula,
  isOfLines,
  isPick,
  limitSchema,
  linesOf,
  linesRowSchema,
  mostRows,
  picksOf,
  pickSchema,
  plainPick,
  plainSignal,
  readRows,
  requirePlainPick,
  shownRows,
  signalForm,
  signalSchema,
  steadySignalSchema,
  stepOf,
  type Combine,
  type FormulaRow,
  type Limit,
  type LinesRow,
  type SignalPick,
  type Row,
  type Signal
} from './schema';
export { lineLabels, mostLineGroups, narrowsLines, searchBehind, searchText, servicesOfLines } from './lines-row';
export {
  labelConditionSchema,
  expressionProblem,
  labelValue,
  conditionMatcher,
  picked,
  spokenCondition,
  standardLabels,
  type LabelCondition,
  type Labels,
  type SeriesLabels
} from './conditions';
export { derivedMetricName, derivedSchema, mostDerivedSeries, type DerivedDefinition } from './derive';
// Composing one
export {
  changePick,
  freeName,
  pickNamed,
  replaceRow,
  steady,
  toggleShown,
  usualStatistic,
  withoutRow,
  withRow
} from './compose';
export { findingsOf, type CheckedAnswer, type CheckedMetric, type Finding } from './check';
// In words
export { combinedWords, rowSentence, signalSentence, signalSubject, type MetricWords, type WordsOf } from './sentence';
export { namesOfColumns, subjectOf } from './names';
// As it is answered
export { answerOf, resourceKey, type ResourceIds, type Worked } from './answer';
// What is computed. Those that compute it are in './evaluate' and './cached-picks': what only shows signals does not load them
export { othersLabel } from './evaluate/limit';
export { labelKey, sharedLabels, type Column, type Note, type Table } from './evaluate/table';
export type { Evaluation, Prepared, Readings, ShownRow, Source, Wanted } from './evaluate';

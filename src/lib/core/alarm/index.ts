// What people define
export { lengthSchema } from './condition/length';
export { serviceOfAlarm, servicesOfAlarm } from './service';
export {
  alarmForm,
  alarmSchema,
  gravestLevel,
  levelSchema,
  mostWindowCells,
  ruleSchema,
  signalsOfAlarm,
  stepOfAlarm,
  wakingShape,
  windowSchema,
  whenMissing,
  type AlarmDefinition,
  type EvaluationWindow,
  type Level,
  type Rule
} from './schema';
export { alarmChangeSchema, changedAlarm, type AlarmChange } from './change';
export { alarmDifferences, type DifferenceWords } from './differences';
export { withClearing } from './clearing';
export { combinesSchema, partSchema, type Combines, type Part } from './combined';
export { evidenceForm, evidenceSchema, type Evidence } from './evidence';
export { explainLevel, type ExplainedLevel, type Explanation } from './explain';
export { drawnLimits, otherLimits, withDrawnLimit, type DrawnLimit, type OtherLimit } from './limits';
export { graver, severities, severityBalls, type Severity } from './severity';
export { alarmSentence, comparedText, conditionIn, limitOf, watchedTitle, watchedUnit, windowText } from './sentence';
// Conditions
export {
  beyondAt,
  boundAt,
  cellCode,
  codesOf,
  compareWith,
  conditionNeeds,
  conditionSchema,
  conditionText,
  leastPeers,
  timesOfCells,
  timesSchema,
  timesText,
  usualWidths,
  type Absence,
  type Band,
  type Bound,
  type Cells,
  type ChangeCondition,
  type Combined,
  type Comparison,
  type Condition,
  type ConditionData,
  type ConditionName,
  type ConditionWords,
  type Forecast,
  type Needs,
  type Rank,
  type Threshold,
  type ThresholdException,
  type Times
} from './condition';
export { circleFrom, combineParts, type CombinedSeries, type PartSeries } from './combine';
export { verbOf, verbs, withVerb, type Verb } from './verbs';
// What is decided
export { completeUntil, gapsFinalUntil, silenceAfter, type Arrival } from './complete';
export {
  countedAs,
  judgeSeries,
  noMemory,
  standingOf,
  warmed,
  windowCells,
  type LevelMemory,
  type Peak,
  type SeriesMemory,
  type Standing,
  type State,
  type Transition
} from './judge';
export { decodeMemory, encodeMemory, MemoryDamaged, type RememberedSeries } from './memory';
export type { ListedAlarm } from './listed';
export { alarmViews, isInView, noiseOf, type AlarmView, type Noise, type PastPeriod } from './noise';
export { flapsWithin, rehearsalFigures, type KnownPeriod, type RehearsalFigures } from './figures';
export { worstRehearsed, type RehearsalAnswer, type RehearsedPeriod, type RehearsedValues } from './rehearsal-answer';
export { knobOf, proposeLevels, proposeLimit, proposeWindow, withKnob, type Proposal, type Rehearsed } from './propose';
export { periodsOf, rehearse, worseOf, worstPeriod, type RaisedPeriod, type Rehearsal } from './rehearse';
// While it is defined
export {
  combinedIds,
  preflight,
  type Fix,
  type PreflightCheck,
  type PreflightFacts,
  type AlarmReach,
  type PreflightMetric
} from './preflight';
export { recommendedAlarms, type KnownMetric, type RecommendedAlarm } from './recommended';
export { isShare, suggestCondition, type Seen } from './suggest';
export { mostDrawnBands, type BandAnswer } from './band-answer';

// What people define
export {
  alarmForm,
  alarmSchema,
  evidenceForm,
  evidenceSchema,
  type Evidence,
  conditionSchema,
  mostWindowCells,
  ruleSchema,
  windowSchema,
  whenMissing,
  type AlarmDefinition,
  type Condition,
  type EvaluationWindow,
  type Rule
} from './schema';
export { graver, severities, severityBalls, type Severity } from './severity';
export { alarmSentence, watchedTitle, watchedUnit } from './sentence';
// What is decided
export { completeUntil, silenceAfter, type Arrival } from './complete';
export { holds, judgeCells, judgeWindow, nextState, type Change, type Judgement, type State } from './judge';
export { peakBetween, rehearse, worstPeriod, type RaisedPeriod, type Rehearsal } from './rehearse';
// While it is defined
export { preflight, type PreflightCheck, type PreflightFacts } from './preflight';
export { isShare, suggestCondition, type Seen } from './suggest';

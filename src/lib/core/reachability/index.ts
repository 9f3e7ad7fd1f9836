// Checks
export {
  checkForm,
  checkSchema,
  emptyTarget,
  intervalSeconds,
  isExpected,
  mostRetries,
  recordKinds,
  targetKinds,
  type Check,
  type RecordKind,
  type Target,
  type TargetKind
} from './check';
export { checkSentence, everyWords, targetWords } from './sentence';
// Attempts
export {
  nextAfter,
  phases,
  phaseWords,
  standingAfter,
  unknownStanding,
  type Attempt,
  type CheckState,
  type Phase,
  type Standing
} from './outcome';
// Resources
export {
  heartbeatOverdue,
  overdueSeconds,
  resourceMetrics,
  resourceState,
  resourceStates,
  type ResourceState
} from './resource-state';

export {
  abilityText,
  actionKinds,
  actionSchema,
  actionText,
  actName,
  countAfter,
  isDangerous,
  providerActs,
  timesText,
  whyNot,
  type Abilities,
  type Action,
  type ActionKind,
  type ProviderAct,
  type ProviderAction
} from './action';
export {
  responseForm,
  responseSchema,
  responseSentence,
  usualLimits,
  usualOneIn,
  watchedMinutes,
  type AutoResponse,
  type ResponseLimits
} from './response';
export { gravelySince, type SeverityChange } from './held';
export { heldBackBy, holdReasons, mayAtOnce, settling, type HeldBack, type Situation } from './limits';
export { failuresOnEnd, isFailure, isOver, runStates, runText, type Effect, type Run, type RunState } from './run';

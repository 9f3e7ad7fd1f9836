export {
  conditionLabels,
  meets,
  signalSchema,
  stepOf,
  type ConditionLabel,
  type ConditionLabels,
  type Signal
} from './schema';
export { signalSentence, type MetricWords } from './sentence';
export { machinesStarter, narrowed, starterOf, type StarterMetric, type StarterPanel } from './starter';

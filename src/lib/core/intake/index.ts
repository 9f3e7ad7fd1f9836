// What is collected
export {
  collectedMetrics,
  collects,
  leavesOut,
  planEvery,
  planIntervals,
  planForm,
  planSchema,
  selectsMetric,
  usualPlan,
  type CollectionPlan,
  type PlannedMetric,
  type PlannedResource
} from './plan';
export { planBrief, planSentence } from './sentence';
// What it costs
export { estimate, type CountedMetric, type Estimate } from './estimate';
// Whether anything comes of an account
export { darkAfter, feedOf, type AccountFeed, type Collected } from './dark';

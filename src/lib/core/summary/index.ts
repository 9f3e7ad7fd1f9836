export {
  isSummaryDate,
  lastWhole,
  periodBefore,
  periodTitle,
  periodWith,
  summaryKinds,
  type SummaryKind
} from './period';
export { nextSending, periodSent, planWords, summaryPlanForm, summaryPlanSchema, type SummaryPlan } from './plan';
export { summaryColumns, summaryRows } from './rows';
export { mostListed, summaryForm, summarySchema, type Summary } from './summary';
export { isMet, summarySentences } from './words';

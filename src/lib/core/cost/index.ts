// Money
export {
  addMicros,
  AmountTooLarge,
  isCurrency,
  micros,
  microsFromText,
  moneyText,
  textOfMicros,
  type Micros
} from './money';
export { datedRateSchema, Rates, ratesInto, type DatedRate } from './rates';
// Bills
export {
  chargeCategories,
  costBases,
  costItemSchema,
  dateOf,
  dayAt,
  dayOf,
  itemIdentity,
  resourceCost,
  startOfDay,
  unknownService,
  type BillEntry,
  type ChargeCategory,
  type CostBasis,
  type CostItem,
  type DayNumber
} from './bill';
export { isMonth, monthAfter, monthAt, monthOf, type Month } from './month';
export { decodeDay, decodeQuantities, encodeDay, encodeQuantities, type DaySheet } from './day-sheet';
// What they say
export {
  costReport,
  dimensionOf,
  type CostDimension,
  type CostFilter,
  type CostGroup,
  type CostQuery,
  type CostReport,
  type ReportedDay,
  type ReportedItem
} from './cost-report';
export { monthForecast, type MonthForecast } from './month-forecast';
export { whatChanged, type ChangeQuery, type ChangesFound, type CostChange } from './what-changed';
export { idleRules, idleSince, type IdleRule } from './idle';
export {
  selectionWithin,
  selectionWithout,
  costSelectionFrom,
  costSearch,
  plainDimensions,
  type CostSelection
} from './cost-selection';
// In words
export {
  aboutMoney,
  changeWords,
  dayWords,
  dimensionWords,
  groupWords,
  monthWords,
  roundMoney,
  timesWords
} from './words';
// Budgets
export {
  budgetForm,
  budgetMetrics,
  budgetSchema,
  budgetWords,
  levelOf,
  periodAt,
  periodWords,
  scopeWords,
  spanWords,
  type Budget,
  type BudgetPeriod,
  type BudgetStanding,
  type PeriodSpan
} from './budget';

export {
  covers,
  longestShelving,
  scopeSchema,
  shelvingForm,
  shelvingSchema,
  type Scope,
  type Shelving
} from './shelving';
export { isInForce, nextChange, occurrenceAt, occurrencesIn, recurrenceProblem } from './recurrence';
export { scopeText } from './sentence';

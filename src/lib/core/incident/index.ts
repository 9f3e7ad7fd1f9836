// What happened
export { inOrder, timelineKinds, type TimelineEntry, type TimelineKind } from './timeline';
export { reviewText, type ReviewFacts } from './review';
// Where it is drawn
export { piledUp, type Drawn, type Pile } from './strip';
// How it ended
export { closingSchema, outcomes, outcomeText, outcomeWords, type Closing, type Outcome } from './outcome';
// What belongs to it
export { groupRelated, relationsBetween, type Relatable, type RelatedGroup, type Relation } from './related';
export {
  compareWithPast,
  farthest,
  unusualText,
  type Compared,
  type Course,
  type Unusual,
  type UnusualMetric,
  type UnusualThen
} from './unusual';

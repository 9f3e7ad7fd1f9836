export { inOrder, type TimelineEntry, type TimelineKind } from './timeline';
export { reviewText, type ReviewFacts } from './review';

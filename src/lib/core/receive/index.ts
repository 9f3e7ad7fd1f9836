export {
  refusals,
  toleratedFuture,
  type Received,
  type ReceivedIdentity,
  type ReceivedPoint,
  type ReceivedSeries,
  type RefusalReason,
  type RefusedPoints
} from './received';
export { readOtlp } from './otlp';
export { mostColumns, readJsonLines, readOpenMetrics, readRecords } from './lines';

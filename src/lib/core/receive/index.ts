export { type Received, type ReceivedPoint, type ReceivedSeries } from './received';
export { otlpSchema, readOtlp, type OtlpMetrics } from './otlp';
export { readJsonLines, readOpenMetrics, readRecords } from './lines';

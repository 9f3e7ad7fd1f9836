import {} from '../problem/problem';
// Samples
export { firstAtOrAfter, joinPoints, noPoints, ones, pointsOfLength, slicePoints, type SummaryPoints } from './points';
export { GrowingPoints, samePoint } from './growing-points';
// Onto a grid
export { rollUp, rollupSteps } from './rollup';
export { alignSeries, deviationOf, groupSeries, quantileIn, type PooledStatistic } from './align';
export { growSeries, longestOrdinary, type GrowthKind, type Stamp } from './growth';
export {
  cannotGive,
  isOfGrowth,
  needsReadings,
  quantileOf,
  statisticName,
  statisticOf,
  statistics,
  unitOfStatistic,
  waitsForNext,
  type Statistic
} from './statistic';
export { trendOf, type Trend } from './trend';
export { summarise, type ColumnSummary, type Frame, type FrameColumn } from './frame';
export { drawnCells } from './drawn';
// To and from bytes
export { decodeBatch, encodeBatch, type BatchBlock } from './batch';
// As the API gives it
export {
  hasGaps,
  unpacked,
  valuesOf,
  waitedFor,
  type AnswerEffort,
  type AnswerSeries,
  type PackedAnswer,
  type QueryAnswer
} from './query-answer';

// Moments and lengths
export { instant, instantFromText, textFromInstant, type Instant } from './instant';
export {
  after,
  before,
  day,
  duration,
  durationFromText,
  hour,
  minute,
  second,
  textFromDuration,
  times,
  type Duration
} from './duration';
export type { Clock } from './clock';
// Spans and grids
export { inRange, overlap, range, rangeLength, type Range } from './range';
export {
  cellAt,
  cellStart,
  cellsUntil,
  earlier,
  gridEnd,
  gridOver,
  longer,
  mostCells,
  shortestStep,
  type Calendar,
  type Grid
} from './grid';
export { daysOf, isZone } from './calendar';
export { dateAfter, dateAt, daysBetween, firstInstantAt, weekdayOf } from './wall-clock';
// As people write them
export {
  exactMoment,
  peopleAge,
  peopleDate,
  peopleDateOfYear,
  peopleDay,
  peopleDuration,
  peopleMoment,
  spokenDuration,
  dateLocales,
  fullMoment,
  isDateLocale,
  type DateLocale,
  type Dates
} from './people';
// What a view shows
export {
  fixedRange,
  isShownLength,
  liveRange,
  resolveRange,
  saysRange,
  shownRangeFrom,
  shownRangeSearch,
  stepRange,
  usualOf,
  usualRange,
  type ShownRange
} from './shown-range';
export { typedRange, type TypedRange } from './typed-range';
// Axes
export { timeTicks, type Tick } from './ticks';

export {
  alarmSeverityOf,
  lineSeverities,
  mostSeverity,
  severityFromSyslog,
  severityFromText,
  severityName,
  severityNumber,
  type LineSeverity
} from './severity';
export { matcherOf, type FieldValue, type Matcher, type SearchedLine } from './search/match';
export { mostSearchCharacters, mostSearchDepth, readSearch } from './search/read';
export { fieldsIn, partsIn, type Search } from './search/tree';
export { wordsIn } from './search/words';
export { writeSearch } from './search/write';
export { differs, mostShapeWords, Shapes, shapeWords, type Shape, type ShapeOptions } from './shapes';

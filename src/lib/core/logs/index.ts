export {
  lineSeverities,
  mostSeverity,
  severityFromSyslog,
  severityFromText,
  severityName,
  severityNumber,
  type LineSeverity
} from './severity';
export { matcherOf, numberOf, type FieldValue, type Matcher, type SearchedLine } from './search/match';
export { mostSearchCharacters, mostSearchDepth } from './search/limits';
export { readSearch } from './search/read';
export { relaxed } from './search/relax';
export { holdsFor } from './search/simplify';
export { fieldsIn, partsIn, type Search } from './search/tree';
export { wordsIn } from './search/words';
export {
  clausesOf,
  complete,
  completing,
  completions,
  ownFieldNames,
  type Clause,
  type Completing
} from './search/complete';
export { quotedSearch, writeSearch } from './search/write';
export { differs, mostShapeWords, Shapes, shapeWords, type Shape, type ShapeOptions } from './shapes';
// Lines
export { nodeFields, noOrigin, valueText, type Line, type LogFields, type LogValue, type Origin } from './line';
export { isOwnField, searchable, searchedLine, sinceOf, type StreamContext } from './searched';
// As they are kept
export { decodeBatch, encodeBatch } from './batch';
export {
  findLines,
  headPart,
  partsOfLines,
  planSegment,
  rawBytes,
  readHead,
  readLines,
  readSummary,
  writeSegment,
  writeSummary,
  type SegmentHead,
  type SegmentPlan,
  type SegmentSummary
} from './segment';
// As they arrive
export {
  lineFaults,
  lineLimits,
  type LineFault,
  type Arrived,
  type ArrivedLine,
  type ArrivedLines
} from './arrive/gather';
export { admit, leftOutReasons, type Admission, type LeftOut, type LeftOutReason } from './arrive/admission';
export { applyRules, maskOf, masked, type Mask, type RuleHits, type RuleInForce } from './rules/apply';
export { lineRuleForm, lineRuleSchema, type LineRule, type Masked } from './rules/line-rule';
export { secretKinds, secretNames, type SecretKind } from './rules/secrets';
export { readJsonLogs } from './arrive/json-lines';
export { framesOf, longestMessage, readSyslog, type SyslogFrames } from './arrive/syslog';
export { readOtlpLogs } from './arrive/otlp';
// As they are counted
export { vanishedField, type VanishedField } from './vanished';
export { fieldStatistics, LineCells, type CountedGroup, type FieldStatistic } from './counted';
export {
  fieldExtractor,
  linePatternSchema,
  patternFields,
  type ExtractedFields,
  type LinePattern
} from './pattern/line-pattern';
export { kindOf, nameBefore, patternFromSample, type MarkedPart } from './pattern/from-sample';
export { readTextPattern, writeTextPattern, type PatternPiece } from './pattern/text-pattern';
export { barStep } from './bars';
export {
  mostAlike,
  shapeNews,
  shapeText,
  together,
  type AlikeLines,
  type FoundShape,
  type ShapeNews,
  type ShownShape
} from './alike';
export { shownPieces, type ShownPiece } from './shown';
export {
  isTallied,
  mostListed,
  type FollowedLines,
  type FoundLine,
  type LogProgress,
  type LogTally,
  type ShownFollowed,
  type ShownLine,
  type ShownProgress
} from './found';

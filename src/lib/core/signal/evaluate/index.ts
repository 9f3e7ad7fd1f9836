export { evaluateRows, evaluateSignal, type Evaluation, type RowsOn, type ShownRow } from './evaluate';
export {
  prepare,
  wantedLinesOf,
  wantedOf,
  type Prepared,
  type PreparedLines,
  type PreparedRow,
  type Wanted,
  type WantedLines
} from './prepare';
export { combineProblem, pools, type Readings, type Source } from './pick';
export { functionRows } from './functions';
export { othersLabel } from './limit';
export { labelKey, sharedLabels, type Column, type Note, type Table } from './table';

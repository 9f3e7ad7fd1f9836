export { evaluateRows, evaluateSignal, type Evaluation, type ShownRow } from './evaluate';
export { prepare, wantedOf, type Prepared, type PreparedRow, type Wanted } from './prepare';
export { combineProblem, pools, type Readings, type Source } from './pick';
export { functionRows } from './functions';
export { othersLabel } from './limit';
export { labelKey, sharedLabels, type Column, type Note, type Table } from './table';

export { focusColumns, neededColumns, type FocusColumn } from './columns';
export { columnProblems, mandatoryColumns, rowProblems, type FocusRow } from './check';
export { readFocusRow, type FocusAccount, type ReadRow, type RejectedRow } from './read-row';
export { focusRowOf, type WrittenAccount } from './write-row';

export { outlineOf, type OutlineRow } from './outline';
export type { ListedOperation, ParameterRow, ShownOperation } from './shown';

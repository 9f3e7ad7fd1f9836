import { isCurrency } from '../money';
import { focusColumns, type FocusColumn } from './columns';

/** Cells of a row by the names of their columns. */
export type FocusRow = Readonly<Record<string, string>>;

/** What is wrong with a file's columns: those that are missing, and such as stand twice. */
export function columnProblems(names: readonly string[], needed: readonly string[]): string[] {
  const twice = names.filter((name, index) => name !== '' && names.indexOf(name) !== index);
  return [
    ...needed.filter((name) => !names.includes(name)).map((name) => `The column ${name} is missing.`),
    ...[...new Set(twice)].map((name) => `The column ${name} stands twice.`)
  ];
}

/** The names of all columns that a file has to have by the specification. */
export const mandatoryColumns = focusColumns.filter(({ isMandatory }) => isMandatory).map(({ name }) => name);

const byName = new Map(focusColumns.map((column) => [column.name, column]));

/**
 * Why a row is not as FOCUS has it; empty when it is. Columns that are no part of FOCUS, such as those that begin with `x_`, may hold anything; a column that is missing is no fault of the row.
 *
 * @example rowProblems({ BilledCost: 'ten' }) // ['BilledCost is "ten": not a number.']
 */
export function rowProblems(row: FocusRow): string[] {
  const problems: string[] = [];
  for (const [name, cell] of Object.entries(row)) {
    const column = byName.get(name);
    const why = column === undefined ? null : cellProblem(column, cell);
    if (why !== null) problems.push(`${name} is ${JSON.stringify(cell.slice(0, 60))}: ${why}`);
  }
  const [from, to] = [momentOf(row['ChargePeriodStart'] ?? ''), momentOf(row['ChargePeriodEnd'] ?? '')];
  if (from !== null && to !== null && to <= from) problems.push('ChargePeriodEnd is not after ChargePeriodStart.');
  return problems;
}

function cellProblem({ type, isNullable, choices = [] }: FocusColumn, cell: string): string | null {
  if (cell === '') return isNullable ? null : 'it must not be empty.';
  switch (type) {
    case 'text':
      return null;
    case 'decimal':
      return /^[+-]?(\d+(\.\d*)?|\.\d+)([eE][+-]?\d{1,3})?$/.test(cell) ? null : 'not a number.';
    case 'moment':
      return momentOf(cell) === null ? 'not a moment in UTC such as 2026-11-01T00:00:00Z.' : null;
    case 'currency':
      return isCurrency(cell) ? null : 'not a currency code of ISO 4217.';
    case 'choice':
      return choices.includes(cell) ? null : `expected one of ${choices.join(', ')}.`;
    case 'map':
      return mapOf(cell) === null ? 'not a JSON object of texts.' : null;
    default:
      throw new TypeError(`cellProblem: unknown ${JSON.stringify(type satisfies never)}`);
  }
}

/** A moment as FOCUS writes it, ms since the epoch; null for what is none. */
export function momentOf(text: string): number | null {
  if (!/^\d{4}-\d{2}-\d{2}T\d{2}:\d{2}(:\d{2}(\.\d{1,9})?)?Z$/.test(text)) return null;
  const at = Date.parse(text);
  return Number.isNaN(at) ? null : at;
}

/** Labels as FOCUS writes them: a JSON object of texts, numbers, booleans and nulls; null for what is none. */
export function mapOf(text: string): Record<string, string> | null {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    return null;
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return null;
  const pairs = Object.entries(value);
  if (pairs.some(([, one]) => typeof one === 'object' && one !== null)) return null;
  return Object.fromEntries(pairs.map(([key, one]) => [key, one === null ? '' : String(one)]));
}

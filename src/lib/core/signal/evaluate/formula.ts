import { countOf } from '../../words/count';
import { Refusal } from '../../problem/problem';
import type { Formula, Operator } from '../../formula';
import { cellsUntil, day, type Grid } from '../../time';
import { ratioUnit, addUnits, divideUnits, isPlain, multiplyUnits, raiseUnit, type DerivedUnit } from '../../units';
import { fillingOf, gridsOfCall, lengthIn, windowCells, type Filling } from './functions';
import { joinByLabels, joined } from './join';
import { constant, type Column, type Note, type Table } from './table';
import { both, cumulated, differences, each, filled, movingAverage, ofOne, operate, orGap, rounded } from './work';

/** What working a formula out needs from the rows around it. */
export interface FormulaContext {
  readonly row: string;
  readonly index: number;
  readonly tableOf: (name: string, grid: Grid) => Table;
  /** Cells that begin at or after this instant are still being filled. */
  readonly completeUntil: number;
  readonly notes: Note[];
}

/** A number as written, which takes the unit of what it meets; or a table. */
type Value = { readonly kind: 'number'; readonly value: number } | ({ readonly kind: 'table' } & Table);

/**
 * Works a formula out on a grid. Gaps stay gaps; so does what has no finite answer, such as a division by zero.
 *
 * @throws SignalFault with the place in the formula when units do not fit or series of two rows cannot be told apart
 */
export function workOut(formula: Formula, grid: Grid, context: FormulaContext): Table {
  const value = valueOf(formula, grid, context);
  return value.kind === 'table' ? value : { columns: [constant(value.value, grid)], unit: '1', isRatio: false };
}

function valueOf(node: Formula, grid: Grid, context: FormulaContext): Value {
  switch (node.kind) {
    case 'number':
      return { kind: 'number', value: node.value };
    case 'duration':
      throw faultAt(node, context, 'A length of time stands only in previous and moving_avg.');
    case 'name':
      return { kind: 'table', ...context.tableOf(node.name, grid) };
    case 'negative': {
      const of = valueOf(node.of, grid, context);
      return of.kind === 'number'
        ? { ...of, value: -of.value }
        : mapped(of, (values) => each(values, (value) => -value));
    }
    case 'binary':
      return binary(node, valueOf(node.left, grid, context), valueOf(node.right, grid, context), context);
    case 'call':
      return call(node, grid, context);
    default:
      throw new Error(`valueOf: unknown node ${String(node satisfies never)}`);
  }
}

const mapped = (table: Table, of: (values: Float64Array) => Float64Array, unit = table.unit): Value => ({
  kind: 'table',
  columns: table.columns.map((column) => ({ ...column, values: of(column.values) })),
  unit,
  isRatio: table.isRatio && unit === table.unit
});

const comparisons: ReadonlySet<Operator> = new Set(['=', '!=', '<', '<=', '>', '>=']);

function binary(node: Formula & { kind: 'binary' }, left: Value, right: Value, context: FormulaContext): Value {
  const { operator } = node;
  const of = operate(operator);
  if (left.kind === 'number' && right.kind === 'number') return { kind: 'number', value: of(left.value, right.value) };
  if (operator === '^') return power(node, left, right, context);
  const ratio = left.kind === 'table' ? left : right.kind === 'table' ? right : null;
  const number = left.kind === 'number' ? left.value : right.kind === 'number' ? right.value : null;
  if (operator === '*' && (ratio?.isRatio || ratio?.unit === ratioUnit) && number === 100)
    return mapped(ratio, (values) => each(values, (value) => orGap(value * 100)), '%');
  const unit = unitOf(operator, left, right);
  if (unit.kind === 'refused') throw faultAt(node, context, `${capital(unit.why)}.`);
  const code = comparisons.has(operator) ? '1' : unit.code;
  const sum = comparisons.has(operator) || operator === '+' || operator === '-';
  const offset = comparisons.has(operator) ? unit.offset : 0;
  const scaled = (one: number, other: number): number =>
    orGap(sum ? of(one, unit.scale === 1 ? other + offset : other * unit.scale + offset) : of(one, other) * unit.scale);
  if (left.kind === 'number')
    return mapped(
      right as Table,
      (values) => each(values, (value) => orGap(of(left.value, value) * (sum ? 1 : unit.scale))),
      code
    );
  if (right.kind === 'number')
    return mapped(
      left,
      (values) => each(values, (value) => orGap(of(value, right.value) * (sum ? 1 : unit.scale))),
      code
    );
  const columns = joinTables(node, left, right, context, (one, other) => both(one, other, scaled));
  const isRatio = operator === '/' && code === '1';
  return { kind: 'table', columns, unit: code, isRatio };
}

/** Numbers as written take the unit of the other side in sums and comparisons, and have none in products. */
function unitOf(operator: Operator, left: Value, right: Value): DerivedUnit {
  const [one, other] = [left, right].map((side) => (side.kind === 'table' ? side.unit : null));
  if (operator === '*') return multiplyUnits(one ?? '1', other ?? '1');
  if (operator === '/') return divideUnits(one ?? '1', other ?? '1');
  if (one === null || one === undefined || other === null || other === undefined)
    return { kind: 'unit', code: one ?? other ?? '1', scale: 1, offset: 0 };
  return addUnits(one, other);
}

function power(node: Formula & { kind: 'binary' }, left: Value, right: Value, context: FormulaContext): Value {
  const of = operate('^');
  if (right.kind === 'table') {
    if (!isPlain(right.unit)) throw faultAt(node.right, context, 'An exponent is a plain number.');
    if (left.kind === 'table' && !isPlain(left.unit))
      throw faultAt(node, context, 'What has a unit can be raised only to a number as written.');
    if (left.kind === 'number') return mapped(right, (values) => each(values, (value) => of(left.value, value)), '1');
    const columns = joinTables(node, left, right, context, (one, other) => both(one, other, of));
    return { kind: 'table', columns, unit: '1', isRatio: false };
  }
  const base = left as Table;
  const unit: DerivedUnit = isPlain(base.unit)
    ? { kind: 'unit', code: base.unit === '%' ? '1' : base.unit, scale: 1, offset: 0 }
    : raiseUnit(base.unit, right.value);
  if (unit.kind === 'refused') throw faultAt(node, context, `${capital(unit.why)}.`);
  return mapped(base, (values) => each(values, (value) => of(value, right.value)), unit.code);
}

function call(node: Formula & { kind: 'call' }, grid: Grid, context: FormulaContext): Value {
  const parts = gridsOfCall(node, grid).map(([part, its]) => [valueOf(part, its, context), its] as const);
  const [[first, its] = [null, grid] as const, ...others] = parts;
  if (first === null) throw faultAt(node, context, `${node.name} has no parts.`);
  const one = ofOne[node.name];
  if (one) return single(node, first, one, context);
  const table = (): Table =>
    first.kind === 'table' ? first : { columns: [constant(first.value, its)], unit: '1', isRatio: false };
  switch (node.name) {
    case 'round': {
      const [, digits] = node.parts;
      const to = digits?.kind === 'number' ? digits.value : 0;
      return first.kind === 'number'
        ? { ...first, value: rounded(first.value, to) }
        : mapped(first, (values) => each(values, (value) => rounded(value, to)));
    }
    case 'previous':
      if (grid.calendar && lengthIn(node) % day !== 0)
        note(context, 'On cells of days, previous steps back by whole days: the length is rounded to days.');
      return mapped(table(), (values) => values);
    case 'moving_avg': {
      const cells = its.count - grid.count + 1;
      const wanted = lengthIn(node);
      if (windowCells(wanted, grid.step) * grid.step !== wanted)
        context.notes.push({
          row: context.row,
          text: `The moving average looks at ${countOf(cells, 'whole cell')}, which is not quite the length asked for.`
        });
      return mapped(table(), (values) => movingAverage(values, cells));
    }
    case 'difference':
      return mapped(table(), (values) => differences(values));
    case 'cumulate':
      return mapped(table(), cumulated);
    case 'fill': {
      const filling = fillingOf(node.parts[1]) as Filling;
      const of = table();
      const columns = of.columns.map((column) => ({
        ...column,
        values: filled(column.values, filling, cellsUntil(grid, Math.min(context.completeUntil, column.completeUntil)))
      }));
      return { kind: 'table', ...of, columns };
    }
    case 'min':
    case 'max':
    case 'clamp':
      return others.reduce<Value>((value, [other], index) => {
        const larger = node.name === 'max' || (node.name === 'clamp' && index === 0);
        return chosen(node, value, other, larger, context);
      }, first);
    default:
      throw faultAt(node, context, `There is no function ${node.name}.`);
  }
}

function single(
  node: Formula & { kind: 'call' },
  first: Value,
  of: (value: number) => number,
  context: FormulaContext
): Value {
  if (first.kind === 'number') return { kind: 'number', value: of(first.value) };
  const work = (values: Float64Array) => each(values, of);
  if (node.name === 'abs') return mapped(first, work);
  if (node.name === 'sqrt') {
    const unit = isPlain(first.unit) ? ({ kind: 'unit', code: '1' } as const) : raiseUnit(first.unit, 0.5);
    if (unit.kind === 'refused') throw faultAt(node, context, `${capital(unit.why)}.`);
    return mapped(first, work, unit.code);
  }
  if (!isPlain(first.unit)) throw faultAt(node, context, `${node.name} is of plain numbers, and this has a unit.`);
  return mapped(first, work, '1');
}

/** The larger or the smaller of two, cell by cell; a gap in either is one. */
function chosen(node: Formula, left: Value, right: Value, larger: boolean, context: FormulaContext): Value {
  const of = (one: number, other: number): number =>
    Number.isNaN(one) || Number.isNaN(other) ? NaN : larger ? Math.max(one, other) : Math.min(one, other);
  if (left.kind === 'number' && right.kind === 'number') return { kind: 'number', value: of(left.value, right.value) };
  const unit = unitOf('+', left, right);
  if (unit.kind === 'refused') throw faultAt(node, context, `${capital(unit.why)}.`);
  if (left.kind === 'number') return mapped(right as Table, (values) => each(values, (value) => of(left.value, value)));
  if (right.kind === 'number') return mapped(left, (values) => each(values, (value) => of(value, right.value)));
  const columns = joinTables(node, left, right, context, (one, other) =>
    both(one, other, (a, b) => of(a, b * unit.scale))
  );
  return { kind: 'table', columns, unit: unit.code, isRatio: false };
}

/** The columns that two tables make joined by their labels; what has no counterpart is noted. */
function joinTables(
  node: Formula,
  left: Table,
  right: Table,
  context: FormulaContext,
  of: (one: Float64Array, other: Float64Array) => Float64Array
): Column[] {
  const result = joinByLabels(left.columns, right.columns);
  if (result.kind === 'ambiguous') {
    const shared = Object.entries(result.shared).map(([label, value]) => `${label} ${value || 'none'}`);
    throw faultAt(
      node,
      context,
      shared.length === 0
        ? 'The two sides have no label in common, so their series cannot be matched.'
        : `Both sides have several series with ${shared.join(', ')}, so it is not clear which belong together.`,
      'Combine one of the rows by the labels that both have.'
    );
  }
  const { leftAlone, rightAlone, differsIn } = result;
  const [one, other] = [left.columns.length, right.columns.length];
  if (differsIn !== null)
    note(
      context,
      `No series of the two sides belong together: they never agree in ${differsIn}. Combine both rows without it.`
    );
  else if (leftAlone + rightAlone > 0)
    note(
      context,
      `${leftAlone} of ${one} series on the left and ${rightAlone} of ${other} on the right have no counterpart and are left out.`
    );
  return result.pairs.map((pair) => joined(pair, of));
}

function note({ notes, row }: FormulaContext, text: string): void {
  if (!notes.some((known) => known.row === row && known.text === text)) notes.push({ row, text });
}

const faultAt = (
  node: Formula,
  { index }: FormulaContext,
  message: string,
  remedy = 'Fix the formula at the marked place.'
) => new Refusal('signal-invalid', message, remedy, { path: ['rows', index, 'formula'], place: node.at });

const capital = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);

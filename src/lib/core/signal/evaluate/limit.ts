import { summarise } from '../../series';
import type { Limit } from '../schema';
import { combined } from './combine';
import { arrivedTogether, type Column, type Table } from './table';

/** The label under which what a limit leaves over is folded together. */
export const othersLabel = 'others';

/**
 * Keeps the highest or lowest few columns by a figure over the whole range, best first; equal ones in their order, those without any value last. The rest is
 * left out, or folded into one column.
 *
 * @param completeOf how many cells of a column are complete: figures are of these alone, since in one still filling slower sources have nothing yet
 * @example limited(table, { keep: 5, order: 'highest', by: 'avg', rest: 'leave out' }, () => 60).columns.length // at most 5
 */
export function limited(table: Table, { keep, order, by, rest }: Limit, completeOf: (column: Column) => number): Table {
  const columns = ranked(table.columns, order, (column) => figureOf(column.values.subarray(0, completeOf(column)), by));
  if (columns.length <= keep) return { ...table, columns };
  const kept = columns.slice(0, keep);
  const others = columns.slice(keep);
  if (rest === 'leave out') return { ...table, columns: kept };
  const folded: Column = {
    labels: { [othersLabel]: `${others.length} others` },
    values: combined(
      others.map(({ values }) => values),
      others[0]?.values.length ?? 0,
      rest
    ),
    ...arrivedTogether(others),
    seriesId: null
  };
  return { ...table, columns: [...kept, folded] };
}

function ranked(columns: readonly Column[], order: Limit['order'], figure: (column: Column) => number): Column[] {
  const figures = new Map(columns.map((column) => [column, figure(column)]));
  const sign = order === 'highest' ? -1 : 1;
  return columns.toSorted((one, other) => {
    const [a, b] = [figures.get(one) as number, figures.get(other) as number];
    if (Number.isNaN(a) || Number.isNaN(b)) return Number(Number.isNaN(a)) - Number(Number.isNaN(b));
    return sign * (a - b);
  });
}

function figureOf(values: Float64Array, by: Limit['by']): number {
  const { min, max, avg, last, missing } = summarise(values);
  return { min, max, avg, last, sum: avg * (values.length - missing) }[by];
}

import { Refusal } from '../../problem/problem';
import { cellsUntil, type Grid } from '../../time';
import { conversion, ratioUnit } from '../../units';
import { workOut } from './formula';
import { limited } from './limit';
import { workOutPick, type Readings, type Source } from './pick';
import type { Prepared, PreparedLines, PreparedRow } from './prepare';
import { type Note, type Table } from './table';
import { orGap } from './work';

/** A row that is shown. */
export interface ShownRow extends Table {
  readonly name: string;
}

/** The result of evaluating a signal. */
export interface Evaluation {
  readonly rows: readonly ShownRow[];
  readonly notes: readonly Note[];
}

/**
 * Works a signal out on a grid: its shown rows, limited, in the unit to show. Pure: the numbers come through `readings`, the series of each pick through
 * `sourcesOf`.
 *
 * @param completeUntil cells that begin at or after this instant are still being filled
 * @throws SignalFault with the path within the signal
 * @example evaluateSignal(prepare(signal), grid, () => sources, readings, now).rows[0].columns[0].values
 */
export function evaluateSignal(
  prepared: Prepared,
  grid: Grid,
  sourcesOf: (row: string) => readonly Source[],
  readings: Readings,
  completeUntil: number
): Evaluation {
  const on: RowsOn = {
    pick: (row, grid) => workOutPick(row, sourcesOf(row.name), grid, readings),
    lines: (row, grid) => readings.counted(row, grid)
  };
  return evaluateRows(prepared, grid, on, completeUntil);
}

/** Rows that are read rather than computed from others, each on a grid. */
export interface RowsOn {
  pick(row: PreparedRow & { kind: 'pick' }, grid: Grid): Table;
  lines(row: PreparedLines, grid: Grid): Table;
}

/**
 * {@link evaluateSignal} over picks and lines that are computed elsewhere.
 *
 * @example evaluateRows(prepare(signal), grid, { pick: ({ name }) => tables[name], lines }, now).rows[0].columns[0].values
 */
export function evaluateRows(prepared: Prepared, grid: Grid, rowsOn: RowsOn, completeUntil: number): Evaluation {
  const notes: Note[] = [];
  const tables = new Map<string, Table>();
  const tableOf = (name: string, on: Grid): Table => {
    const key = `${name} ${on.start} ${on.count}`;
    const known = tables.get(key);
    if (known) return known;
    const row = prepared.rows.get(name) as PreparedRow;
    const table =
      row.kind === 'pick'
        ? rowsOn.pick(row, on)
        : row.kind === 'lines'
          ? rowsOn.lines(row, on)
          : workOut(row.formula, on, { row: name, index: row.index, tableOf, completeUntil, notes });
    tables.set(key, table);
    return table;
  };
  const { limit, unit } = prepared.signal;
  const rows = prepared.shown.map((name): ShownRow => {
    const table = shownIn(tableOf(name, grid), unit);
    return {
      name,
      ...(limit
        ? limited(table, limit, ({ completeUntil: own }) => cellsUntil(grid, Math.min(own, completeUntil)))
        : table)
    };
  });
  return { rows, notes };
}

function shownIn(table: Table, chosen: string | undefined): Table {
  const unit = chosen ?? (table.unit === ratioUnit ? '%' : undefined);
  if (unit === undefined || unit === table.unit || table.columns.length === 0) return table;
  const converted = conversion(table.unit, unit);
  if (converted.kind === 'refused')
    throw new Refusal(
      'signal-invalid',
      `${converted.why.charAt(0).toUpperCase()}${converted.why.slice(1)}.`,
      `Choose a unit that measures the same as ${table.unit}.`,
      { path: ['unit'] }
    );
  const { scale, offset } = converted;
  const columns = table.columns.map((column) =>
    scale === 1 && offset === 0
      ? column
      : { ...column, values: column.values.map((value) => orGap(value * scale + offset)) }
  );
  return { columns, unit, isRatio: false };
}

import { Refusal } from '../../problem/problem';
import { namesIn, partsIn, readFormula, type Formula } from '../../formula';
import type { Grid } from '../../time';
import { searchOfLines } from '../lines-search';
import { isOfLines, isPick, shownRows, type LinesRow, type SignalPick, type Signal } from '../schema';
import { callProblem, gridsOfCall } from './functions';

/** A row ready to be computed. */
export type PreparedRow = { readonly name: string; readonly index: number } & (
  | { readonly kind: 'pick'; readonly pick: SignalPick }
  | { readonly kind: 'lines'; readonly lines: LinesRow }
  | { readonly kind: 'formula'; readonly formula: Formula }
);
export type PreparedLines = PreparedRow & { readonly kind: 'lines' };

/** A signal whose formulas are read and whose names all lead somewhere. */
export interface Prepared {
  readonly signal: Signal;
  readonly rows: ReadonlyMap<string, PreparedRow>;
  readonly shown: readonly string[];
  /** Parts of all its formulas together. */
  readonly parts: number;
}

/** The most parts that the formulas of a signal may have together. */
const mostParts = 500;

/**
 * Reads the formulas of a signal and checks what can be checked without data: names, functions and their parts, and that no row depends on itself.
 *
 * @throws SignalFault with the path of the row and the place in its formula
 * @example prepare(signal).shown // ['share']
 */
export function prepare(signal: Signal): Prepared {
  const rows = new Map<string, PreparedRow>();
  for (const [index, row] of signal.rows.entries()) {
    const { name } = row;
    if (isPick(row)) rows.set(name, { kind: 'pick', name, index, pick: row });
    else if (isOfLines(row)) {
      within(['rows', index, 'lines'], () => searchOfLines(row));
      rows.set(name, { kind: 'lines', name, index, lines: row });
    } else
      rows.set(name, {
        ...{ kind: 'formula', name, index },
        formula: within(['rows', index, 'formula'], () => readFormula(row.formula))
      });
  }
  const parts = [...rows.values()].reduce((sum, row) => sum + (row.kind === 'formula' ? partsIn(row.formula) : 0), 0);
  if (parts > mostParts)
    throw new Refusal(
      'signal-invalid',
      `The formulas have ${parts} parts together; at most ${mostParts} are allowed.`,
      'Use fewer or shorter formulas.',
      { path: ['rows'] }
    );
  for (const row of rows.values()) if (row.kind === 'formula') check(row.formula, row.index, rows);
  refuseCircles(rows);
  return { signal, rows, shown: shownRows(signal), parts };
}

/** A row on a grid: what is to be read of a pick, or counted of lines. */
export interface Wanted {
  readonly row: PreparedRow & { kind: 'pick' };
  readonly grid: Grid;
}
export interface WantedLines {
  readonly row: PreparedLines;
  readonly grid: Grid;
}

/** Most readings of one signal: each row may be wanted on several grids. */
const mostWanted = 200;

/**
 * The picks that showing a signal on a grid needs, each with the grids it is wanted on: those of `previous` lie earlier, those of a moving average begin earlier.
 *
 * @throws SignalFault when formulas refer to each other in so many ways that there would be more than 200
 * @example wantedOf(prepare(signal), grid).map(({ row, grid }) => [row.name, grid.start])
 */
export const wantedOf = (prepared: Prepared, grid: Grid): Wanted[] => allWanted(prepared, grid).picks;

/** The rows of lines that showing a signal on a grid needs, see {@link wantedOf}. */
export const wantedLinesOf = (prepared: Prepared, grid: Grid): WantedLines[] => allWanted(prepared, grid).lines;

function allWanted({ rows, shown }: Prepared, grid: Grid): { readonly picks: Wanted[]; readonly lines: WantedLines[] } {
  const picks: Wanted[] = [];
  const lines: WantedLines[] = [];
  const seen = new Set<string>();
  const walkRow = (name: string, on: Grid): void => {
    const row = rows.get(name) as PreparedRow;
    const key = `${name} ${on.start} ${on.count}`;
    if (seen.has(key)) return;
    seen.add(key);
    if (seen.size > mostWanted)
      throw new Refusal(
        'signal-invalid',
        `The rows refer to each other in more than ${mostWanted} ways.`,
        'Use fewer rows, or fewer previous and moving averages within each other.',
        { path: ['rows'] }
      );
    if (row.kind === 'pick') picks.push({ row, grid: on });
    else if (row.kind === 'lines') lines.push({ row, grid: on });
    else walk(row.formula, on);
  };
  const walk = (node: Formula, on: Grid): void => {
    if (node.kind === 'name') walkRow(node.name, on);
    else if (node.kind === 'negative') walk(node.of, on);
    else if (node.kind === 'binary') [node.left, node.right].forEach((side) => walk(side, on));
    else if (node.kind === 'call') for (const [part, its] of gridsOfCall(node, on)) walk(part, its);
  };
  for (const name of shown) walkRow(name, grid);
  return { picks, lines };
}

/** Reads a text of a signal; what cannot be read is said with where in the signal it stands. */
function within<Done>(path: readonly (string | number)[], read: () => Done): Done {
  try {
    return read();
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    throw new Refusal('signal-invalid', error.message, error.remedy, { path, place: error.place });
  }
}

function check(node: Formula, index: number, rows: ReadonlyMap<string, PreparedRow>): void {
  const fault = (message: string, remedy: string): never => {
    throw new Refusal('signal-invalid', message, remedy, { path: ['rows', index, 'formula'], place: node.at });
  };
  if (node.kind === 'name' && !rows.has(node.name))
    fault(
      `There is no row named ${node.name}.`,
      rows.size > 1 ? `Rows here: ${[...rows.keys()].join(', ')}.` : 'Add a row with that name.'
    );
  if (node.kind === 'duration')
    fault('A length of time stands only in previous and moving_avg.', 'Write it as the second part of one of them.');
  if (node.kind === 'negative') check(node.of, index, rows);
  if (node.kind === 'binary') [node.left, node.right].forEach((side) => check(side, index, rows));
  if (node.kind === 'call') {
    const problem = callProblem(node);
    if (problem !== null)
      throw new Refusal('signal-invalid', problem.message, problem.remedy, {
        path: ['rows', index, 'formula'],
        place: problem.at
      });
    for (const part of partsWithRows(node)) check(part, index, rows);
  }
}

const partsWithRows = (node: Formula & { kind: 'call' }): readonly Formula[] =>
  gridsOfCall(node, { start: 0, step: 60_000, count: 0 } as Grid).map(([part]) => part);

function refuseCircles(rows: ReadonlyMap<string, PreparedRow>): void {
  const done = new Set<string>();
  const visit = (name: string, way: readonly string[]): void => {
    const row = rows.get(name) as PreparedRow;
    if (way.includes(name))
      throw new Refusal(
        'signal-invalid',
        `The row ${name} depends on itself: ${[...way.slice(way.indexOf(name)), name].join(' → ')}.`,
        'Take one of these references out.',
        { path: ['rows', row.index, 'formula'] }
      );
    if (done.has(name) || row.kind !== 'formula') return;
    for (const next of namesIn(row.formula)) visit(next, [...way, name]);
    done.add(name);
  };
  for (const name of rows.keys()) visit(name, []);
}

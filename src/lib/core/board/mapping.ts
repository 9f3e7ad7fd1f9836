import { isFormula, picksOf, readRows, type LabelCondition } from '../signal';
import { mapSignals, signalsOf, type Board } from './schema';

/** What a board names of a workspace: metrics, and the values of labels, such as accounts, regions and groups. */
export interface BoardNames {
  readonly metrics: readonly string[];
  /** Values by the name of their label, both sorted. */
  readonly values: Readonly<Record<string, readonly string[]>>;
}

/** What takes the place of what in another workspace: names of labels, values by the label's new name, metrics. */
export interface BoardMapping {
  readonly labels?: Readonly<Record<string, string>>;
  readonly values?: Readonly<Record<string, Readonly<Record<string, string>>>>;
  readonly metrics?: Readonly<Record<string, string>>;
}

/** @example namesIn(board).values.account // ['corallo-prod'] */
export function namesIn({ panels, pickers }: Pick<Board, 'panels' | 'pickers'>): BoardNames {
  const signals = panels.flatMap(signalsOf);
  const picks = signals.flatMap(picksOf);
  const values = new Map<string, Set<string>>();
  const note = (label: string, some: readonly string[]) => {
    const known = values.get(label) ?? new Set();
    for (const value of some) known.add(value);
    values.set(label, known);
  };
  for (const { where } of signals.flatMap(readRows))
    for (const condition of where) {
      if ('is' in condition) note(condition.label, condition.is);
      else if ('isNot' in condition) note(condition.label, condition.isNot);
      else note(condition.label, []);
    }
  for (const { label, usual } of pickers) note(label, usual);
  return {
    metrics: [...new Set(picks.map(({ metric }) => metric))].sort(),
    values: Object.fromEntries(
      [...values].sort(([a], [b]) => (a < b ? -1 : 1)).map(([label, some]) => [label, [...some].sort()])
    )
  };
}

/**
 * The same board with other names in the place of some. What a map does not say stays.
 *
 * @example mappedBoard(board, { values: { account: { 'corallo-prod': 'perla-prod' } } })
 */
export function mappedBoard(board: Board, { labels = {}, values = {}, metrics = {} }: BoardMapping): Board {
  const own = (record: Readonly<Record<string, string>>, name: string) =>
    Object.hasOwn(record, name) ? (record[name] as string) : name;
  const label = (name: string) => own(labels, name);
  const value = (of: string, name: string) => own(Object.hasOwn(values, of) ? (values[of] ?? {}) : {}, name);
  const condition = (one: LabelCondition): LabelCondition => {
    const of = label(one.label);
    if ('is' in one) return { label: of, is: distinct(one.is.map((name) => value(of, name))) };
    if ('isNot' in one) return { label: of, isNot: distinct(one.isNot.map((name) => value(of, name))) };
    return { ...one, label: of };
  };
  return {
    ...board,
    pickers: board.pickers.map((picker) => {
      const of = label(picker.label);
      return {
        ...picker,
        label: of,
        usual: distinct(picker.usual.map((name) => value(of, name))),
        ...(picker.metric === undefined ? {} : { metric: own(metrics, picker.metric) })
      };
    }),
    panels: board.panels.map((panel) =>
      mapSignals(panel, (signal) => ({
        ...signal,
        rows: signal.rows.map((row) => {
          if (isFormula(row)) return row;
          const where = row.where.map(condition);
          if ('lines' in row) return { ...row, where };
          const combine = row.combine && { ...row.combine, by: distinct(row.combine.by.map(label)) };
          return { ...row, metric: own(metrics, row.metric), where, ...(combine ? { combine } : {}) };
        })
      }))
    )
  };
}

const distinct = (names: readonly string[]): string[] => [...new Set(names)];

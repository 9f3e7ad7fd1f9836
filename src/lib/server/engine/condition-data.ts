import {
  conditionNeeds,
  type Cells,
  type Condition,
  type ConditionData,
  type Needs,
  windowCells,
  type Rule
} from '$lib/core/alarm';
import type { BandCells } from '$lib/core/band';
import { Refusal, refusalOf } from '$lib/core/problem/problem';
import { labelKey, type Column } from '$lib/core/signal';
import {
  before,
  duration,
  hour,
  range,
  spokenDuration,
  times,
  type Duration,
  type Grid,
  type Instant,
  type Range
} from '$lib/core/time';
import { everySeries, workOf, type Resolved } from '../query/signals/resolve';
import type { SignalEvaluator } from '../query/signals/work';

/** What all levels of a rule need together besides the cells that are judged. */
export interface RuleNeeds {
  readonly lead: number;
  /** Cells more for a series of which nothing is remembered: its windows, and what the conditions look back. */
  readonly begin: number;
  readonly peers: boolean;
  readonly bands: boolean;
}

export function ruleNeeds(rule: Rule, step: Duration): RuleNeeds {
  const all = rule.levels.map(({ condition }) => conditionNeeds(condition, step));
  return {
    lead: all.reduce((most, { lead }) => Math.max(most, lead), 0),
    begin: windowCells(rule) + all.reduce((most, { begin = 0 }) => Math.max(most, begin), 0),
    peers: all.some(({ peers }) => peers),
    bands: all.some(({ bands }) => bands)
  };
}

/** What reading the cells of a signal needs. */
export interface ReadingContext {
  readonly evaluator: SignalEvaluator;
  readonly now: Instant;
  /** Whether bands of little history are learned anew: more of it may be there since. */
  readonly anew?: boolean;
}

/** Bands of the columns of a signal over a grid, in the order of the columns. */
export type BandsOf = (
  context: ReadingContext,
  resolved: Resolved,
  columns: readonly Column[],
  grid: Grid
) => Promise<readonly (BandCells | null)[]>;

/** Cells of a signal that was evaluated. */
export interface Evaluated {
  readonly grid: Grid;
  readonly columns: readonly Column[];
  /** UCUM code. */
  readonly unit: string;
}

/** Cells of all stored series together that one reading may have: what is more would fill the memory, whoever asks for it. */
const mostRead = 12_000_000;

/** Evaluates what a signal shows, over a span. @throws Refusal when it cannot be evaluated, or `too-many-cells` */
export async function evaluated(
  { evaluator, now }: ReadingContext,
  resolved: Resolved,
  span: Range,
  step: Duration,
  complete?: ReadonlyMap<number, Instant>
): Promise<Evaluated> {
  const series = everySeries(resolved.series).length;
  const cells = (series * (span.to - span.from)) / step;
  if (cells > mostRead)
    throw new Refusal(
      'too-many-cells',
      `It would take ${Math.round(cells).toLocaleString('en')} cells of ${series} series, of ${spokenDuration(step)} each.`,
      'Choose longer windows, look back less far, or pick fewer series.'
    );
  const worked = await evaluator.evaluate(workOf(resolved, now, complete), span, step);
  if (worked.kind === 'fault') throw refusalOf(worked.problem);
  const [row] = worked.rows;
  return { grid: worked.grid, columns: row?.columns ?? [], unit: row?.unit ?? '1' };
}

/** The data that each level of a rule is judged on: the cells themselves, and what its condition needs besides, read in cells of its own. */
export async function conditionData(
  context: ReadingContext,
  resolved: Resolved,
  rule: Rule,
  { grid, columns }: Evaluated,
  lastValueAt: readonly (Instant | null)[],
  bandsOf: BandsOf
): Promise<ConditionData[]> {
  const values = columns.map((column) => column.values);
  const cells = { grid, columns: values, zone: rule.zone, lastValueAt };
  const bands = ruleNeeds(rule, grid.step).bands ? await bandsOf(context, resolved, columns, grid) : undefined;
  const data: ConditionData[] = [];
  for (const { condition } of rule.levels)
    data.push({
      ...cells,
      ...(bands && { bands }),
      ...(await besides(context, resolved, condition, { grid, columns }))
    });
  return data;
}

async function besides(
  context: ReadingContext,
  resolved: Resolved,
  condition: Condition,
  { grid, columns }: Pick<Evaluated, 'grid' | 'columns'>
): Promise<Pick<ConditionData, 'earlier' | 'history'>> {
  const { earlier, history, lead }: Needs = conditionNeeds(condition, grid.step);
  const end = (grid.start + grid.count * grid.step) as Instant;
  if (earlier !== undefined) {
    const from = before(before(before(grid.start, earlier), hour), times(lead, grid.step));
    const span = range(from, (end - earlier + hour) as Instant);
    return { earlier: alike(await evaluated(context, resolved, span, grid.step), columns) };
  }
  if (history === undefined) return {};
  const span = range(before(before(grid.start, history.length), duration(history.step)), end);
  return { history: alike(await evaluated(context, resolved, span, history.step), columns) };
}

/** The columns of other cells in the order of these; what is not there has no values. */
function alike({ grid, columns: found }: Evaluated, columns: readonly Column[]): Cells {
  const byKey = new Map(found.map((column) => [columnKey(column), column.values]));
  const none = new Float64Array(grid.count).fill(NaN);
  return { grid, columns: columns.map((column) => byKey.get(columnKey(column)) ?? none) };
}

/** Who a column is among those of a signal: a stored series by its id, others by their labels. */
export const columnKey = ({ seriesId, labels }: Pick<Column, 'seriesId' | 'labels'>): string =>
  seriesId === null ? labelKey(labels) : String(seriesId);

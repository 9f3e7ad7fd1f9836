import type { ConditionData } from '$lib/core/alarm';
import type { Column } from '$lib/core/signal';
import type { Grid, Instant, Range } from '$lib/core/time';
import type { Watched } from '../alarms/alarms';
import type { Database } from '../db/pool';
import type { ArrivedUntil, Arrivals } from '../query/signals/arrivals';
import type { Memories } from './memories';
import type { BandsOf, Evaluated, ReadingContext } from './condition-data';

/** What an alarm is judged on over a span. */
export interface ReadCells extends Evaluated {
  /** For each level of the rule. */
  readonly data: readonly ConditionData[];
}

/** What an alarm watches: series that have cells, which become complete as samples arrive. */
export interface WatchedSource {
  /** Up to where any cell is complete. */
  readonly latest: Instant;
  /** Whether series come up with what they count, as groups of lines do: one that is new is judged from where it came up, not from its newest cell on. */
  readonly isAppearing: boolean;
  /** How many stored series it is made of. */
  readonly inputs: number;
  /** The keys of its series with where their cells are complete, where that is known before anything is computed; null where it is not. */
  readonly series: ReadonlyMap<string, ArrivedUntil> | null;
  /**
   * Reads cells.
   *
   * @param only the keys of the series that are needed, where they are known
   * @param lastValueAt the start of the newest cell with a value of a series, as far as it is remembered
   */
  read(span: Range, only: ReadonlySet<string> | null, lastValueAt: (key: string) => Instant | null): Promise<ReadCells>;
  /** Up to where the gaps of a column are final; null where that is not known apart from where it is complete. */
  gapsFinal(column: Pick<Column, 'seriesId'>): Instant | null;
  /** When the resource of a column ended, as its provider said; null while it is there, and for what is made of several. */
  endedAt(column: Pick<Column, 'seriesId'>): Instant | null;
  /** Who a column is. */
  watched(column: Pick<Column, 'labels' | 'seriesId'>): Watched;
}

/** What reading what alarms watch needs. */
export interface SourceContext extends ReadingContext {
  readonly db: Database;
  readonly arrivals: Arrivals;
  readonly bandsOf: BandsOf;
  readonly memories: Memories;
  /** When the newest sample of each cell of a stored series came; null where that is not known any more. */
  readonly cameAt: (seriesId: number, grid: Grid) => (Instant | null)[];
}

import { type Problem } from '../problem/problem';
import type { AnswerEffort, AnswerSeries, QueryAnswer } from '../series';
import { cellsUntil, type Grid, type Instant } from '../time';
import type { Evaluation } from './evaluate';
import { labelKey, type Column } from './evaluate/table';
import { namesOfColumns } from './names';

/** The resource of a series, by account and name. */
export type ResourceIds = ReadonlyMap<string, number>;

/** @example resourceKey('corallo-prod', 'gate-api-1') */
export const resourceKey = (account: string, resource: string): string => `${account}\n${resource}`;

/** The result of a signal, or why there is none. */
export type Worked =
  | ({ readonly kind: 'worked'; readonly grid: Grid; readonly effort: AnswerEffort } & Evaluation)
  | { readonly kind: 'fault'; readonly problem: Problem };

/**
 * A result as the API returns it, or why there is none.
 *
 * @param completeUntil up to where the cells of the series that is furthest are complete
 * @param sources up to where those of each stored series behind it are, by its id
 */
export function answerOf(
  worked: Worked,
  completeUntil: number,
  now: Instant,
  resources: ResourceIds,
  sources: ReadonlyMap<number, number>
): QueryAnswer | Problem {
  if (worked.kind === 'fault') return worked.problem;
  const { grid, rows, notes, effort } = worked;
  const complete = cellsUntil(grid, completeUntil);
  const taken = new Set<number>();
  const series = rows.flatMap(({ name: row, columns }): AnswerSeries[] => {
    const names = namesOfColumns(
      row,
      columns.map(({ labels }) => labels)
    );
    return columns.map((column, index) => {
      const { account = '', region = '', resource = '' } = column.labels;
      return {
        id: idOf(row, column, rows.length > 1, taken),
        seriesId: column.seriesId,
        row,
        name: names[index] as string,
        labels: column.labels,
        account,
        region,
        resource,
        resourceId: resources.get(resourceKey(account, resource)) ?? 0,
        newest: column.newest as Instant | null,
        complete: Math.min(complete, cellsUntil(grid, column.completeUntil)),
        values: column.values
      };
    });
  });
  return {
    now,
    ...grid,
    complete,
    partial: partialOf(grid, completeUntil, sources),
    rows: rows.map(({ name, unit }) => ({ name, unit })),
    series,
    notes,
    effort
  };
}

/** How many stored series are behind the one that is furthest, in whole cells. */
function partialOf(grid: Grid, completeUntil: number, sources: ReadonlyMap<number, number>): QueryAnswer['partial'] {
  const furthest = cellsUntil(grid, completeUntil);
  let missing = 0;
  for (const until of sources.values()) if (cellsUntil(grid, until) < furthest) missing++;
  return missing === 0 ? null : { missing, of: sources.size };
}

/** The series' own id, or one below zero from row and labels (FNV-1a, 32 bits), so that it is the same with every answer. */
function idOf(row: string, { seriesId, labels }: Column, severalRows: boolean, taken: Set<number>): number {
  let id = seriesId !== null && !severalRows ? seriesId : -hash(`${row} ${labelKey(labels)}`) - 1;
  while (taken.has(id)) id--;
  taken.add(id);
  return id;
}

function hash(text: string): number {
  let state = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) state = Math.imul(state ^ text.charCodeAt(i), 0x01000193);
  return state >>> 0;
}

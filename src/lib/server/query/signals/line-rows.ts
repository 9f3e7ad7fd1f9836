import { fieldsIn, holdsFor, vanishedField, type Search } from '$lib/core/logs';
import { Refusal } from '$lib/core/problem/problem';
import {
  linesOf,
  mostLineGroups,
  othersLabel,
  type Column,
  type LinesRow,
  type Note,
  type Signal,
  type Table
} from '$lib/core/signal';
import { searchOfLines } from '$lib/core/signal/lines-search';
import type { WantedLines } from '$lib/core/signal/evaluate';
import {
  exactMoment,
  after,
  before,
  cellStart,
  duration,
  hour,
  minute,
  range,
  times,
  type Grid,
  type Instant
} from '$lib/core/time';
import type { Queryable } from '../../db/pool';
import { allResources } from '../../inventory/resources';
import { marksIn } from '../../marks/marks';
import { allFeeds, type FeedPlace } from '../../logs/feeds/feeds';
import type { Counted, CountsQuery } from '../../logs/log-counts';

/** Counts lines, wherever they are: null while too many are counted, or where it takes longer than so many ms. */
export interface LineCounter {
  counted(query: CountsQuery, patience: number): Promise<Counted | null>;
}

/** Up to where the lines of each row of a signal are here, by its name. */
export type LinesUntil = Readonly<Record<string, Instant>>;

/** What programs send by themselves is here so soon after it was written. */
const sentWithin = duration(15_000);
/** A feed that lies further behind the foremost than this is not waited for: one that fails, which is said, and any other. */
const waitedForFailing = times(5, minute);
const waitedFor = times(30, minute);
/** How long all counting for one request may take, ms of real time: others wait for their turn meanwhile. */
export const countingMs = 20_000;
/** A group of which the last line was so many cells ago, or so long, is still there without any. */
const groupCells = 10;
const groupSpan = hour;

/** How far lines are read that rows of signals look for. */
export class LinesHere {
  readonly #feeds: readonly FeedPlace[];

  constructor(feeds: readonly FeedPlace[]) {
    this.#feeds = feeds;
  }

  static readonly none = new LinesHere([]);

  /** Reads it for some signals; nothing where none has a row of lines. */
  static async of(db: Queryable, signals: readonly Signal[]): Promise<LinesHere> {
    return signals.some((signal) => linesOf(signal).length > 0) ? new LinesHere(await allFeeds(db)) : LinesHere.none;
  }

  until(signal: Signal, now: Instant): LinesUntil {
    return Object.fromEntries(linesOf(signal).map((row) => [row.name, this.#ofRow(row, now)]));
  }

  /** What is to be said of feeds that lie behind. */
  notes(signal: Signal): Note[] {
    return linesOf(signal).flatMap((row) => {
      const failing = this.#parted(row).behind.filter(({ isFailing }) => isFailing);
      if (failing.length === 0) return [];
      const services = [...new Set(failing.map(({ account, service }) => `${service} in ${account}`))];
      return [{ row: row.name, text: `Lines of ${services.join(', ')} cannot be read at present and are missing.` }];
    });
  }

  #ofRow(row: LinesRow, now: Instant): Instant {
    const { current } = this.#parted(row);
    return current.reduce<Instant>((least, { until }) => (until < least ? until : least), before(now, sentWithin));
  }

  #parted(row: LinesRow): { readonly current: FeedPlace[]; readonly behind: FeedPlace[] } {
    const search = searchOfLines(row);
    const own = this.#feeds.filter((feed) => mayHave(search, feed));
    const foremost = own.reduce((most, { until }) => Math.max(most, until), 0);
    const isBehind = ({ until, isFailing }: FeedPlace) => foremost - until > (isFailing ? waitedForFailing : waitedFor);
    return { current: own.filter((feed) => !isBehind(feed)), behind: own.filter(isBehind) };
  }
}

/** Whether a feed may have lines that a search finds. */
const mayHave = (search: Search, { account, service }: FeedPlace): boolean =>
  holdsFor(search, { account, service }) !== false;

const nothing: Table = { columns: [], unit: '1', isRatio: false };

/** What rows of lines came to. */
export interface CountedLines {
  tableOf(row: LinesRow, grid: Grid): Table;
  /** What is to be said of each row. */
  readonly notes: readonly Note[];
}

/** Of a signal without rows of lines. */
export const noLines: CountedLines = { tableOf: () => nothing, notes: [] };

/** A row of lines to be counted on a grid. */
export interface AskedLines extends WantedLines {
  readonly until: Instant;
  /** Accounts whose lines may be seen; null for all. */
  readonly accounts: readonly number[] | null;
}

const keyOf = ({ name: _, ...row }: LinesRow, { start, step, count }: Grid): string =>
  JSON.stringify([row, start, step, count]);

/**
 * Counts rows of lines on their grids, equal ones once.
 *
 * @param until when it is over, ms of real time
 * @param zone in which times are said
 * @throws Refusal `too-much-at-once` with the path of the row, also while too many are counted
 */
export async function countLineRows(
  db: Queryable,
  counter: LineCounter | null,
  asked: readonly AskedLines[],
  until: number,
  zone = 'UTC'
): Promise<CountedLines> {
  const tables = new Map<string, { readonly table: Table; readonly notes: readonly string[] }>();
  let names: ReadonlyMap<number, string> | null = null;
  for (const one of asked) {
    const { lines: row, index } = one.row;
    const key = keyOf(row, one.grid);
    if (tables.has(key)) continue;
    if (needsNames(row)) names ??= new Map((await allResources(db)).map(({ id, name }) => [id, name]));
    tables.set(key, await counted(db, counter, one, names ?? new Map(), index, until - performance.now(), zone));
  }
  return {
    tableOf: (row, grid) => tables.get(keyOf(row, grid))?.table ?? nothing,
    notes: asked.flatMap(({ row: { name, lines }, grid }) =>
      (tables.get(keyOf(lines, grid))?.notes ?? []).map((text) => ({ row: name, text }))
    )
  };
}

const needsNames = (row: LinesRow): boolean =>
  row.by.includes('resource') || fieldsIn(searchOfLines(row)).includes('resource');

async function counted(
  db: Queryable,
  counter: LineCounter | null,
  { row: { lines: row }, grid, until, accounts }: AskedLines,
  resources: ReadonlyMap<number, string>,
  index: number,
  patience: number,
  zone: string
): Promise<{ readonly table: Table; readonly notes: readonly string[] }> {
  if (counter === null) throw new Error('countLineRows: lines are counted nowhere');
  const by = row.by.includes('resource') && !row.by.includes('account') ? ['account', ...row.by] : row.by;
  const wide = by.length === 0 ? grid : widened(grid);
  const query: CountsQuery = {
    ...{ search: searchOfLines(row), grid: wide, by, accounts, resources, most: mostLineGroups },
    of: row.of ?? null,
    pattern: row.pattern ?? null
  };
  const result = grid.count === 0 ? null : await counter.counted(query, patience);
  if (result === null && grid.count > 0)
    throw new Refusal(
      'too-much-at-once',
      'Counting these lines takes too long.',
      'Show a shorter range, or look for fewer lines: by a service, a severity or a rare word.',
      { path: ['rows', index, 'lines'] }
    );
  const { groups = [], since = Infinity, unmatched = 0, isPartial = false } = result ?? {};
  const whole = by.length === 0 && groups.length === 0 ? [{ values: [], cells: empty(wide, row), lines: 0 }] : groups;
  const lead = wide.count - grid.count;
  const columns = whole.map(({ values, cells }): Column => ({
    labels:
      values === null
        ? { [othersLabel]: 'others' }
        : Object.fromEntries(by.map((name, of) => [name, values[of] ?? ''])),
    values: known(cells.subarray(lead), grid, since, until),
    newest: until,
    completeUntil: until,
    seriesId: null
  }));
  const notes = [
    ...(row.of && result?.lacking ? await vanishedNotes(db, row.of.field, groups, result.lacking, wide, zone) : []),
    ...(groups.some(({ values }) => values === null)
      ? [`There are more than ${mostLineGroups} different values: those of the fewest lines are counted together.`]
      : []),
    ...(unmatched > 0 ? [`${unmatched.toLocaleString('en')} lines do not match the pattern and are left out.`] : []),
    ...(isPartial ? ['There are too many numbers for a percentile of all: it is of those that are newest.'] : [])
  ];
  return { table: { columns, unit: row.of?.unit ?? '1', isRatio: false }, notes };
}

/** How long before a field vanished a deployment may have been that took it away. */
const lookBack = times(30, minute);

/** Says that lines have a field no more, and what was deployed before. */
async function vanishedNotes(
  db: Queryable,
  field: string,
  groups: Counted['groups'],
  lacking: Float64Array,
  grid: Grid,
  zone: string
): Promise<string[]> {
  const having = Array.from(lacking, (_, cell) => groups.some(({ cells }) => !Number.isNaN(cells[cell] ?? NaN)));
  const gone = vanishedField(having, lacking);
  if (gone === null) return [];
  const since = cellStart(grid, gone.cell);
  const marks = await marksIn(db, range(before(since, lookBack), after(since, grid.step)));
  const [mark] = marks.filter(({ from }) => from >= before(since, lookBack));
  return [
    `No line has the field ${field} any more since ${exactMoment(since, zone)}: ${gone.lines.toLocaleString('en')} lines came without it.${mark === undefined ? '' : ` Before it: ${mark.text}, at ${exactMoment(mark.from, zone)}.`}`
  ];
}

const empty = ({ count }: Grid, { of }: LinesRow): Float64Array => new Float64Array(count).fill(of ? NaN : 0);

/** Cells without a line are 0 where lines would be here, and unknown before the first line and where none are read yet. */
function known(cells: Float64Array, grid: Grid, since: number, until: Instant): Float64Array {
  return cells.map((value, cell) =>
    value === 0 && (cellStart(grid, cell) >= until || cellStart(grid, cell + 1) <= since) ? NaN : value
  );
}

/** A grid that begins earlier, so that groups whose last line was just before it are there. */
function widened(grid: Grid): Grid {
  if (grid.calendar) return grid;
  const cells = Math.max(groupCells, Math.ceil(groupSpan / grid.step));
  const lead = Math.min(cells, Math.floor(grid.start / grid.step));
  return { ...grid, start: before(grid.start, times(lead, grid.step)), count: grid.count + lead };
}

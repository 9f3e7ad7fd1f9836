import {
  cellCode,
  codesOf,
  combineParts,
  compareWith,
  decodeMemory,
  type Combines,
  type Comparison,
  type Part,
  type PartSeries,
  type Rule
} from '$lib/core/alarm';
import { Refusal } from '$lib/core/problem/problem';
import { labelKey } from '$lib/core/signal';
import { cellStart, gridOver, range, type Duration, type Grid, type Instant, type Range } from '$lib/core/time';
import { alarmById, seriesStates } from '../alarms/alarms';
import { memoryOfAlarm } from '../alarms/alarm-work';
import { changesSince } from '../incidents/incidents';
import { arrivalsOf } from '../query/signals/arrivals';
import { resolveSignal } from '../query/signals/resolve';
import { stillWatched } from './arrivals';
import { conditionData, evaluated, ruleNeeds } from './condition-data';
import type { SourceContext, WatchedSource } from './source';

/** One part of a combined alarm, opened. */
interface OpenPart {
  /** Its cells are known up to here. */
  readonly until: Instant;
  /** How many stored series it is made of. */
  readonly inputs: number;
  cells(span: Range): Promise<PartSeries[]>;
}

/**
 * What a combined alarm watches: for each group of labels that its parts are joined on, how many of them hold. A cell is complete when it is so for every part: of one that is an alarm, when the alarm has judged it; of a
 * condition on a signal, when no more of its samples can come.
 *
 * @param present leaves out what ended before it; null keeps it
 */
export async function combinedSource(
  context: SourceContext,
  { parts, by }: Combines,
  zone: string,
  step: Duration,
  present: Instant | null
): Promise<WatchedSource> {
  const open: OpenPart[] = [];
  for (const part of parts)
    open.push(
      'alarm' in part
        ? await alarmPart(context, part.alarm, step)
        : await signalPart(context, part, zone, step, present)
    );
  const until = open.reduce((least, part) => Math.min(least, part.until), context.now as number);
  const latest = (Math.floor(until / step) * step) as Instant;
  return {
    latest,
    isAppearing: false,
    inputs: open.reduce((sum, { inputs }) => sum + inputs, 0),
    series: null,
    gapsFinal: () => null,
    endedAt: () => null,
    watched: ({ labels }) => ({ key: labelKey(labels), labels, seriesId: null, accountId: null }),
    read: async (span) => {
      const grid = gridOver(span, step);
      const series = combineParts(await Promise.all(open.map((part) => part.cells(span))), by, grid.count);
      const columns = series.map(({ labels, hold }) => ({
        labels,
        values: hold,
        newest: null,
        completeUntil: latest,
        seriesId: null
      }));
      const data = {
        grid,
        columns: series.map(({ hold }) => hold),
        mayHold: series.map(({ mayHold }) => mayHold),
        parts: parts.length,
        zone
      };
      // Every level of a combined alarm counts the same parts.
      return { grid, columns, unit: '1', data: [data, data, data, data] };
    }
  };
}

/** Holds while the alarm is raised. @throws Refusal `alarm-parts` when the alarm was removed, is off, or cannot be judged */
async function alarmPart({ db, now }: SourceContext, alarmId: number, step: Duration): Promise<OpenPart> {
  const alarm = await alarmById(db, alarmId);
  if (alarm === null) throw unusable('An alarm that this one combines no longer exists.', 'Choose its parts again.');
  const { name, enabled } = alarm.definition;
  if (!enabled)
    throw unusable(`“${name}”, which this alarm combines, is switched off.`, 'Switch it on, or choose other parts.');
  if (alarm.lastError !== null)
    throw unusable(
      `“${name}”, which this alarm combines, cannot be judged. ${alarm.lastError.message}`,
      alarm.lastError.remedy
    );
  const memory = await memoryOfAlarm(db, alarmId);
  const series = memory === null ? [] : [...decodeMemory(memory).values()];
  const judged = series.reduce((least, { judgedUntil }) => Math.min(least, judgedUntil), now as number);
  return {
    // One that was never judged holds the others up; one that watches nothing at present does not.
    until: (memory === null ? 0 : judged) as Instant,
    inputs: series.length,
    cells: async (span) => {
      const grid = gridOver(span, step);
      const changes = new Map<string, Awaited<ReturnType<typeof changesSince>>>();
      for (const change of await changesSince(db, alarmId, span.from))
        changes.set(change.key, [...(changes.get(change.key) ?? []), change]);
      const states = await seriesStates(db, alarmId);
      return states.map(({ key, labels, state }) => {
        const own = changes.get(key) ?? [];
        return { labels, codes: codesOfStates(own, own[0]?.from ?? state, grid) };
      });
    }
  };
}

const unusable = (message: string, remedy: string): Refusal =>
  new Refusal('alarm-parts', message, remedy, { path: ['combines', 'parts'] });

const codeOfState = { raised: cellCode.met, clear: cellCode.well, indeterminate: cellCode.missing } as const;

/** What the states of a series say at the end of each cell. */
function codesOfStates(
  changes: readonly { readonly at: Instant; readonly to: keyof typeof codeOfState }[],
  first: keyof typeof codeOfState,
  grid: Grid
): Uint8Array {
  const codes = new Uint8Array(grid.count);
  let state = first;
  let next = 0;
  for (let i = 0; i < grid.count; i++) {
    const end = cellStart(grid, i + 1);
    for (let change = changes[next]; change !== undefined && change.at <= end; change = changes[++next])
      state = change.to;
    codes[i] = codeOfState[state];
  }
  return codes;
}

/** Holds while the condition is met. */
async function signalPart(
  context: SourceContext,
  { signal, condition }: Extract<Part, { signal: unknown }>,
  zone: string,
  step: Duration,
  present: Instant | null
): Promise<OpenPart> {
  const resolved = await stillWatched(context.db, await resolveSignal(context.db, signal), present);
  const arrived = [...(await arrivalsOf(context.arrivals, resolved, step)).entries()];
  const complete = new Map(arrived.map(([id, one]) => [id, one.complete]));
  const rule: Rule = {
    ...{ levels: [{ severity: 'major', condition }], window: { needs: 1, of: 1 }, whenMissing: 'keep', zone }
  };
  const { lead, begin } = ruleNeeds(rule, step);
  return {
    until: arrived.reduce((least, [, { gapsFinal }]) => Math.min(least, gapsFinal), context.now as number) as Instant,
    inputs: arrived.length,
    cells: async (span) => {
      const before = lead + begin; // what the condition looks back at
      const longer = range((span.from - before * step) as Instant, span.to);
      const cells = await evaluated(context, resolved, longer, step, complete);
      const lasts = cells.columns.map(() => null);
      const [data] = await conditionData(context, resolved, rule, cells, lasts, context.bandsOf);
      const comparisons = data ? compareWith(condition, data) : [];
      const first = Math.round((span.from - cells.grid.start) / step);
      return cells.columns.map(({ labels }, of) => ({
        labels,
        codes: codesOf(comparisons[of] as Comparison, first, cells.grid.count)
      }));
    }
  };
}

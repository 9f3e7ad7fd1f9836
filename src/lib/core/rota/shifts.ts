import {
  after,
  before,
  dateAfter,
  dateAt,
  day,
  daysBetween,
  firstInstantAt,
  times,
  weekdayOf,
  type Instant,
  type Range
} from '../time';
import type { Layer, Override, Rota, WeeklyHours } from './rota';

/** Who makes somebody have the watch. */
export type ShiftSource =
  | { readonly kind: 'layer'; readonly layer: number }
  | { readonly kind: 'override'; readonly id: number }
  | { readonly kind: 'nobody' };

/** A span in which one person has the watch, or nobody. */
export interface Shift extends Range {
  /** Null where nobody has the watch. */
  readonly personId: number | null;
  readonly source: ShiftSource;
}

/**
 * Who has the watch throughout a range: shifts that follow each other without a gap or an overlap, the first cut off at its beginning and the last at its end. An override counts more than layers, a later layer more than
 * an earlier one; of several overrides at the same time, the newest counts, which has the highest id. Handovers and hours are times of the clocks of a zone: see {@link firstInstantAt} for days on which these are changed.
 *
 * Cost: proportional to the days of the range times the layers.
 *
 * @returns none of an empty range
 * @example shiftsIn(rota, [], range(monday, tuesday)) // [{ from: monday, to: tuesday, personId: 3, source: { kind: 'layer', layer: 0 } }]
 */
export function shiftsIn(rota: Rota, overrides: readonly Override[], { from, to }: Range): Shift[] {
  const spans = [...rota.layers.map((layer, position) => layerSpans(layer, position, rota.zone, { from, to })).flat()];
  for (const { id, personId, ...span } of overrides.toSorted((a, b) => a.id - b.id))
    if (span.from < to && span.to > from) spans.push({ ...span, personId, source: { kind: 'override', id } });
  const edges = [from, to, ...spans.flatMap((span) => [span.from, span.to])].filter((at) => at >= from && at <= to);
  const shifts: Shift[] = [];
  const sorted = [...new Set(edges)].sort((a, b) => a - b);
  // Spans enter and leave as time goes on: what is topmost is looked up among those under way only.
  const entering = spans.map((span, rank) => ({ ...span, rank })).sort((a, b) => a.from - b.from);
  let next = 0;
  let underWay: typeof entering = [];
  for (const [position, begin] of sorted.slice(0, -1).entries()) {
    const end = sorted[position + 1] as Instant;
    for (; next < entering.length && (entering[next] as Shift).from <= begin; next++)
      underWay.push(entering[next] as (typeof entering)[number]);
    underWay = underWay.filter((span) => span.to > begin);
    const top = underWay.reduce<(typeof entering)[number] | null>(
      (best, span) => (best === null || span.rank > best.rank ? span : best),
      null
    );
    addShift(shifts, {
      from: begin,
      to: end,
      personId: top?.personId ?? null,
      source: top?.source ?? { kind: 'nobody' }
    });
  }
  return shifts;
}

/**
 * Who has the watch at an instant.
 *
 * @returns null when nobody has it
 * @example onCallAt(rota, [], instant(1_796_000_000_000)) // 3
 */
export const onCallAt = (rota: Rota, overrides: readonly Override[], at: Instant): number | null =>
  shiftsIn(rota, overrides, { from: at, to: (at + 1) as Instant })[0]?.personId ?? null;

/** The shift under way at an instant as a whole, looked at for so many days before and after it. */
export function shiftAt(rota: Rota, overrides: readonly Override[], at: Instant, within = times(40, day)): Shift {
  const shifts = shiftsIn(rota, overrides, { from: before(at, within), to: after(at, within) });
  return shifts.find((shift) => shift.to > at) as Shift;
}

/** The spans of a range in which nobody has the watch. @example gapsIn(rota, [], week) // [] */
export const gapsIn = (rota: Rota, overrides: readonly Override[], within: Range): Shift[] =>
  shiftsIn(rota, overrides, within).filter(({ personId }) => personId === null);

function addShift(shifts: Shift[], shift: Shift): void {
  const last = shifts.at(-1);
  if (last && last.personId === shift.personId && isSameSource(last.source, shift.source))
    shifts[shifts.length - 1] = { ...last, to: shift.to };
  else shifts.push(shift);
}

function isSameSource(one: ShiftSource, other: ShiftSource): boolean {
  if (one.kind === 'layer') return other.kind === 'layer' && one.layer === other.layer;
  if (one.kind === 'override') return other.kind === 'override' && one.id === other.id;
  return other.kind === 'nobody';
}

/** Where a layer has the watch within a range, with whose turn it is. */
function layerSpans(layer: Layer, position: number, rotaZone: string, within: Range): Shift[] {
  const zone = layer.zone ?? rotaZone;
  const source = { kind: 'layer', layer: position } as const;
  const turns = turnsIn(layer, zone, within).map((turn) => ({ ...turn, source }));
  if (layer.hours.length === 0) return turns;
  const open = hoursIn(layer.hours, zone, within);
  return turns.flatMap((turn) =>
    open
      .map((span) => ({
        ...turn,
        from: Math.max(turn.from, span.from) as Instant,
        to: Math.min(turn.to, span.to) as Instant
      }))
      .filter(({ from, to }) => from < to)
  );
}

function turnsIn(
  { people, days, from, until, at }: Layer,
  zone: string,
  within: Range
): (Range & { personId: number })[] {
  const handover = (turn: number) => firstInstantAt(dateAfter(from, turn * days), at, zone);
  const end = until === null ? Infinity : firstInstantAt(until, at, zone);
  const first = Math.max(0, Math.floor((daysBetween(from, dateAt(within.from, zone)) - 1) / days));
  const turns: (Range & { personId: number })[] = [];
  for (let turn = first, begin = handover(first); begin < within.to && begin < end; turn++) {
    const next = handover(turn + 1);
    const to = Math.min(next, end) as Instant;
    if (to > within.from) turns.push({ from: begin, to, personId: people[turn % people.length] as number });
    begin = next;
  }
  return turns;
}

/** The open spans of a week's hours that touch a range, joined where they touch each other. */
function hoursIn(hours: readonly WeeklyHours[], zone: string, within: Range): Range[] {
  const spans: Range[] = [];
  const last = dateAt(within.to, zone);
  for (let date = dateAfter(dateAt(within.from, zone), -1); date <= last; date = dateAfter(date, 1))
    for (const { weekdays, from, to } of hours) {
      if (!weekdays.includes(weekdayOf(date))) continue;
      const begin = firstInstantAt(date, from, zone);
      const end = firstInstantAt(to <= from ? dateAfter(date, 1) : date, to, zone);
      if (begin < end && end > within.from && begin < within.to) spans.push({ from: begin, to: end });
    }
  const joined: Range[] = [];
  for (const span of spans.sort((a, b) => a.from - b.from)) {
    const before = joined.at(-1);
    if (before && span.from <= before.to)
      joined[joined.length - 1] = { from: before.from, to: Math.max(before.to, span.to) as Instant };
    else joined.push(span);
  }
  return joined;
}

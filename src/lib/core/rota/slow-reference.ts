import type { Instant } from '../time';
import type { Layer, Override, Rota } from './rota';

/**
 * Who has the watch at an instant, found without arithmetic on zones: clocks are read every quarter of an hour until they show what is looked for. The reference that tests compare with.
 *
 * @example slowOnCall(rota, [], at) // 3
 */
export function slowOnCall(rota: Rota, overrides: readonly Override[], at: Instant): number | null {
  for (const { from, to, personId } of overrides.toSorted((a, b) => b.id - a.id))
    if (from <= at && at < to) return personId;
  for (const layer of rota.layers.toReversed()) {
    const person = ofLayer(layer, layer.zone ?? rota.zone, at);
    if (person !== null) return person;
  }
  return null;
}

function ofLayer({ people, days, from, until, at: handover, hours }: Layer, zone: string, at: Instant): number | null {
  if (until !== null && at >= firstShown(`${until} ${handover}`, zone)) return null;
  const today = clockAt(at, zone).slice(0, 10);
  if (hours.length > 0) {
    const isOpen = [later(today, -1), today].some((date) =>
      hours.some(
        (one) =>
          one.weekdays.includes(new Date(date).getUTCDay() || 7) &&
          firstShown(`${date} ${one.from}`, zone) <= at &&
          at < firstShown(`${one.to <= one.from ? later(date, 1) : date} ${one.to}`, zone)
      )
    );
    if (!isOpen) return null;
  }
  let turn = -1;
  for (
    let date = from;
    date <= later(today, 1) && firstShown(`${date} ${handover}`, zone) <= at;
    date = later(date, days)
  )
    turn++;
  return turn === -1 ? null : (people[turn % people.length] as number);
}

const quarter = 15 * 60_000;
const known = new Map<string, number>();

/** The first quarter of an hour at which the clocks show a text such as `2026-11-28 08:00`, or a later one. */
function firstShown(text: string, zone: string): number {
  const found = known.get(zone + text);
  if (found !== undefined) return found;
  let at = Date.parse(`${text.replace(' ', 'T')}Z`) - 15 * 4 * quarter;
  while (clockAt(at, zone) < text) at += quarter;
  known.set(zone + text, at);
  return at;
}

const formats = new Map<string, Intl.DateTimeFormat>();

/** What the clocks of a zone show. @example clockAt(0, 'UTC') // '1970-01-01 00:00' */
function clockAt(at: number, zone: string): string {
  const format =
    formats.get(zone) ??
    new Intl.DateTimeFormat('sv-SE', { timeZone: zone, dateStyle: 'short', timeStyle: 'short', hourCycle: 'h23' });
  formats.set(zone, format);
  return format.format(at);
}

const later = (date: string, days: number): string =>
  new Date(Date.parse(date) + days * 86_400_000).toISOString().slice(0, 10);

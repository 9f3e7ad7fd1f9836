import { DateTime, IANAZone } from 'luxon';

/** Whether a text names a time zone. @example isZone('Europe/Berlin') // true */
export function isZone(text: string): boolean {
  if (zones.has(text)) return true;
  const isValid = IANAZone.isValidZone(text);
  // Asking costs as much as reading what names it. A name can be written in many ways: no more are kept than there are zones.
  if (isValid && zones.size < mostZones) zones.add(text);
  return isValid;
}
const zones = new Set<string>();
const mostZones = 600;

/** How many days a step of the calendar has; null for one that is none. @example daysOf(604_800_000) // 7 */
export const daysOf = (step: number): 1 | 7 | null => (step === 86_400_000 ? 1 : step === 604_800_000 ? 7 : null);

/**
 * Where days or weeks begin in a zone, from the one that holds `from` on. A day begins at its first instant, which need not be midnight where clocks are changed then.
 *
 * @param to the first edge at or after it is the last; null for exactly `most` cells
 * @param days 1, or 7 for weeks that begin on Monday
 * @param ahead days to go on from `from` before beginning
 * @returns the edges, one more than there are cells; what lies before 1970 is cut off there
 * @throws RangeError when there would be more than `most` cells
 * @example calendarEdges(0, 86_400_000, 1, 'UTC', 10) // [0, 86400000]
 */
export function calendarEdges(
  from: number,
  to: number | null,
  days: 1 | 7,
  zone: string,
  most: number,
  ahead = 0
): number[] {
  const first = DateTime.fromMillis(from, { zone })
    .startOf(days === 7 ? 'week' : 'day')
    .plus({ days: ahead });
  const edges = [first.startOf('day').toMillis()];
  if (from === to) return [Math.max(0, edges[0] as number)];
  while (to === null ? edges.length <= most : (edges.at(-1) as number) < to) {
    if (edges.length > most) throw new RangeError(`calendarEdges: more than ${most} cells asked for`);
    edges.push(
      first
        .plus({ days: days * edges.length })
        .startOf('day')
        .toMillis()
    );
  }
  return edges.map((edge) => Math.max(0, edge));
}

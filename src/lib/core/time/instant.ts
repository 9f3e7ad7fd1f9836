declare const instantBrand: unique symbol;

/** A moment: whole milliseconds since 1970-01-01T00:00:00Z. */
export type Instant = number & { readonly [instantBrand]: 'Instant' };

/** The last instant PostgreSQL's `timestamptz` and four-digit years both hold: 9999-12-31T23:59:59.999Z. */
const lastInstant = 253_402_300_799_999;

/**
 * Brands a number of milliseconds since the epoch as an instant.
 *
 * @param milliseconds whole, from 0 to the end of the year 9999
 * @throws RangeError when it is not
 * @example instant(1_700_000_000_000) // 2023-11-14T22:13:20Z
 */
export function instant(milliseconds: number): Instant {
  if (!Number.isInteger(milliseconds) || milliseconds < 0 || milliseconds > lastInstant)
    throw new RangeError(`instant: expected whole milliseconds from 0 to ${lastInstant}, got ${milliseconds}`);
  return milliseconds as Instant;
}

/**
 * Reads an RFC 3339 date and time.
 *
 * @param text with a zone: `Z` or an offset
 * @throws RangeError when the text has no zone or is no such moment
 * @example instantFromText('2026-05-04T08:00:00Z') // 1777881600000
 */
export function instantFromText(text: string): Instant {
  const [, date = ''] = rfc3339.exec(text) ?? [];
  const milliseconds = date === '' || !isDay(date) ? NaN : Date.parse(text.toUpperCase());
  if (Number.isNaN(milliseconds))
    throw new RangeError(`instantFromText: expected an RFC 3339 date and time with a zone, got "${text.slice(0, 60)}"`);
  return instant(milliseconds);
}

const rfc3339 = /^(\d{4}-\d\d-\d\d)T\d\d:\d\d(?::\d\d(?:\.\d{1,9})?)?(?:Z|[+-]\d\d:\d\d)$/i;

/** Whether a date is in the calendar: JavaScript takes the 30th of February for the 2nd of March. */
function isDay(date: string): boolean {
  const midnight = new Date(`${date}T00:00:00Z`);
  return !Number.isNaN(midnight.getTime()) && midnight.toISOString().startsWith(date);
}

/**
 * Writes an instant as RFC 3339 in UTC.
 *
 * @example textFromInstant(instant(0)) // '1970-01-01T00:00:00.000Z'
 */
export const textFromInstant = (at: Instant): string => new Date(at).toISOString();

import { z } from 'zod';
import { dateAfter, firstInstantAt, type Range } from '$lib/core/time';

/** Whether a text is a date of the calendar, within reason. */
export const isDate = (text: string | null): text is string =>
  text !== null && text >= '2000-01-01' && text <= '2199-12-31' && z.iso.date().safeParse(text).success;

/** A day of the calendar as an address names it, of a zone; null for none. @example fixedDay('2026-11-28', 'UTC') */
export const fixedDay = (text: string | null, zone: string): Range | null =>
  isDate(text)
    ? { from: firstInstantAt(text, '00:00', zone), to: firstInstantAt(dateAfter(text, 1), '00:00', zone) }
    : null;
